import { describe, expect, test } from "vitest";
import type { Step, Version } from "../../api/types";
import { compareSteps, marked } from "./CompareDialog";

const task = (id: string, name: string, to: string): Step => ({
  kind: "task",
  id,
  name,
  assignee: { is: "ticketGroup" },
  outcomes: ["Done"],
  mayLeaveOut: false,
  ways: { Done: to },
});
const end: Step = { kind: "end", id: "end", name: "End", result: "done", ending: "line" };
const version = (...steps: Step[]): Version => ({
  key: "w",
  number: 1,
  name: "W",
  owner: "ines",
  startForm: [],
  vars: [],
  results: [],
  conditions: {},
  notes: {},
  body: { steps },
});

describe("comparing versions", () => {
  test("tells new, changed, re-led and taken away steps apart, inside brackets too", () => {
    const stage = (...steps: Step[]): Step => ({
      kind: "stage",
      id: "s",
      name: "S",
      body: { steps },
      ways: { done: "end" },
    });
    const before = version(
      task("a", "A", "s"),
      stage(task("b", "B", "x"), task("x", "X", "y")),
      task("g", "G", "end"),
      end,
    );
    const after = version(
      task("a", "A!", "s"),
      stage(task("b", "B", "n"), task("x", "X", "y"), task("n", "N", "x")),
      end,
    );
    const found = compareSteps(before, after);
    expect(Object.fromEntries(found.marks)).toEqual({ a: "changed", b: "moved", n: "new" });
    expect(found.gone.map((s) => s.id)).toEqual(["g"]);
  });
});

describe("lines of two texts", () => {
  test("begin in one column, whatever sign stands before them", () => {
    expect(marked("+", "one\n  two\n")).toBe("+ one\n+   two");
    expect(marked(" ", "one\n\nthree")).toBe("  one\n  \n  three");
  });
});
