import { beforeEach, describe, expect, it, vi } from "vitest";

const store = new Map<string, string>();
vi.stubGlobal("sessionStorage", {
  getItem: (k: string) => store.get(k) ?? null,
  setItem: (k: string, v: string) => store.set(k, v),
  removeItem: (k: string) => store.delete(k),
});
const { commandId, unsentWords, useUnsent } = await import("./unsent");

describe("what was not sent", () => {
  beforeEach(() => useUnsent.setState({ list: [] }));
  const note = { person: "ada", ticket: "I-1", path: "/api/tickets/I-1/notes", body: { text: "Closed" }, id: "one" };

  it("goes again under the id it had, so that it does nothing twice; another text is another command", () => {
    useUnsent.getState().keep(note);
    expect(commandId(note.path, { text: "Closed" })).toBe("one");
    expect(commandId(note.path, { text: "Open" })).not.toBe("one");
  });

  it("is kept over a reload, and gone once something was sent to the same place", () => {
    useUnsent.getState().keep(note);
    expect(store.get("dastur-unsent")).toContain("Closed");
    useUnsent.getState().sent(note.path);
    expect(useUnsent.getState().list).toEqual([]);
  });

  it("is named as people know it", () => {
    expect(unsentWords(note)).toBe("your note “Closed”");
    expect(unsentWords({ path: "/api/approvals/I-1.1.1/vote", body: { approve: false } })).toBe("your no");
    expect(unsentWords({ path: "/api/tasks/I-1.1.1/complete", body: { outcome: "fixed" } })).toBe(
      "the outcome “fixed”",
    );
  });
});
