// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from "vitest";
import { asked, chosenColumns, keepColumns, nextOrder, sortedBy, usualOrder } from "./columns";

beforeEach(() => localStorage.clear());

describe("columns of the list", () => {
  it("are the usual ones until somebody chooses, and never without number and title", () => {
    expect(chosenColumns(true)).toEqual(["number", "priority", "title", "state", "with", "clock", "changed"]);
    keepColumns(["ci", "raised"]);
    expect(chosenColumns(true)).toEqual(["number", "title", "ci", "raised"]);
    localStorage.setItem("dastur-ticket-columns", "{broken");
    expect(chosenColumns(true)).toContain("state");
  });

  it("show a requester only what is theirs to see", () => {
    keepColumns(["ci", "with", "clock", "state"]);
    expect(chosenColumns(false)).toEqual(["number", "title", "state"]);
  });

  it("turn round when pressed again", () => {
    expect(nextOrder("title", "burning")).toBe("title");
    expect(nextOrder("title", "title")).toBe("title-last");
    expect(nextOrder("title", "title-last")).toBe("title");
    expect(nextOrder("clock", "burning")).toBe("burning");
    expect(nextOrder("changed", "burning")).toBeUndefined();
    expect(sortedBy("raised", "newest")).toBe("descending");
    expect(sortedBy("raised", "oldest")).toBe("ascending");
    expect(sortedBy("title", "burning")).toBeUndefined();
  });
});

describe("what is asked of the server", () => {
  const of = (q: string) => asked(new URLSearchParams(q)).toString();
  it("is all but what only the page knows; rows that stand together come in that order", () => {
    expect(of("open=true&priority=P1")).toBe("open=true&priority=P1");
    expect(of("open=true&by=state&order=title")).toBe("open=true&order=state");
    expect(of("by=nonsense")).toBe("");
  });

  it("burns first among open ones, else is the newest", () => {
    expect(usualOrder(new URLSearchParams("open=true"))).toBe("burning");
    expect(usualOrder(new URLSearchParams(""))).toBe("newest");
    expect(usualOrder(new URLSearchParams("open=true&order=title"))).toBe("title");
  });
});
