import { describe, expect, test } from "vitest";
import type { Step, Version } from "../../api/types";
import { clashWords, merge, takeTheirs } from "./merge";

const task = (id: string, name: string, to: string, more: Partial<Extract<Step, { kind: "task" }>> = {}): Step => ({
  kind: "task",
  id,
  name,
  assignee: { is: "ticketGroup" },
  outcomes: ["Done"],
  mayLeaveOut: false,
  ways: { Done: to },
  ...more,
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
const ids = (v: Version | undefined) => v?.body.steps.map((s) => s.id);

const base = version(task("a", "A", "b"), task("b", "B", "end"), end);

describe("bringing two drafts together", () => {
  test("changes of different steps and of different parts of one step both count", () => {
    const mine = version(task("a", "A", "b", { due: "30 min" }), task("b", "B", "end"), end);
    const theirs = version(task("a", "Look", "b"), task("b", "Mend", "end"), end);
    const merged = merge(base, mine, theirs);
    expect(merged?.clashes).toEqual([]);
    expect(merged?.version.body.steps[0]).toMatchObject({ name: "Look", due: "30 min" });
    expect(merged?.version.body.steps[1]).toMatchObject({ name: "Mend" });
  });

  test("steps that either added stand where they put them", () => {
    const mine = version(task("a", "A", "m"), task("m", "Mine", "b"), task("b", "B", "end"), end);
    const theirs = version(task("a", "A", "b"), task("b", "B", "t"), task("t", "Theirs", "end"), end);
    const merged = merge(base, mine, theirs);
    expect(merged?.clashes).toEqual([]);
    expect(ids(merged?.version)).toEqual(["a", "m", "b", "t", "end"]);
    expect(merged?.version.body.steps[0]).toMatchObject({ ways: { Done: "m" } });
    expect(merged?.version.body.steps[2]).toMatchObject({ ways: { Done: "t" } });
  });

  test("what one took away and the other left alone is gone", () => {
    const mine = version(task("a", "A", "end"), end);
    const theirs = version(task("a", "A", "b"), task("b", "B", "end"), { ...end, result: "all done" });
    const merged = merge(base, mine, theirs);
    expect(ids(merged?.version)).toEqual(["a", "end"]);
    expect(merged?.version.body.steps[1]).toMatchObject({ result: "all done" });
  });

  test("both changing the same is a clash: mine stands until theirs is taken", () => {
    const mine = version(task("a", "Mine", "b"), task("b", "B", "end"), end);
    const theirs = version(task("a", "Theirs", "b"), task("b", "B", "end"), end);
    const merged = merge(base, mine, theirs);
    const clash = merged?.clashes[0];
    if (!merged || !clash) throw new Error("a clash was expected");
    expect(merged.clashes).toHaveLength(1);
    expect(merged.version.body.steps[0]?.name).toBe("Mine");
    expect(clashWords(merged.version, clash)).toBe("“Mine”, name");
    expect(takeTheirs(merged.version, clash).body.steps[0]?.name).toBe("Theirs");
  });

  test("one takes a step away that the other changed: a clash that keeps the change can be taken back", () => {
    const mine = version(task("a", "A", "end"), end);
    const theirs = version(task("a", "A", "b"), task("b", "Changed", "end"), end);
    const merged = merge(base, mine, theirs);
    const clash = merged?.clashes[0];
    if (!merged || !clash) throw new Error("a clash was expected");
    expect(ids(merged.version)).toEqual(["a", "end"]);
    expect(ids(takeTheirs(merged.version, clash))).toContain("b");
  });

  test("a step that would stand in two places is not guessed at", () => {
    const stage = (...steps: Step[]): Step => ({ kind: "stage", id: "s", name: "S", body: { steps }, ways: {} });
    const before = version(task("a", "A", "s"), task("b", "B", "s"), stage(end));
    const mine = version(task("a", "A", "s"), stage(task("b", "B", "end"), end));
    const theirs = version(task("a", "A", "s"), task("b", "Changed", "s"), stage(end));
    const merged = merge(before, mine, theirs);
    const clash = merged?.clashes[0];
    expect(merged === undefined || clash !== undefined).toBe(true);
  });
});
