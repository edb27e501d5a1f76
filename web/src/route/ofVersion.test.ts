import { describe, expect, it } from "vitest";
import type { Action, Step, Version } from "../api/types";
import { allSteps, exitsOf, expectedOf, linesOf, optionalExitsOf, routeSteps, waysOf } from "./ofVersion";

const step = (over: object) => ({ id: "s", name: "S", ways: {}, ...over }) as unknown as Step;
const end = (id: string, ending: string, result: string) => step({ kind: "end", id, ending, result });
const body = (...steps: Step[]) => ({ body: { steps } });
const ACTIONS = [{ key: "lane.close", results: [{ name: "already closed" }] }] as unknown as Action[];

describe("the exits of a step", () => {
  it.each<[string, object, string[], string[]]>([
    ["a task", { kind: "task", outcomes: ["Fixed", "Not fixed"] }, ["Fixed", "Not fixed"], ["overdue"]],
    [
      "one that may be left out",
      { kind: "task", outcomes: ["Done"], mayLeaveOut: true },
      ["Done"],
      ["overdue", "left out"],
    ],
    [
      "one left out by a condition",
      { kind: "task", outcomes: ["Done"], leftOutIf: "x" },
      ["Done"],
      ["overdue", "left out"],
    ],
    ["an approval", { kind: "approval" }, ["approved", "declined"], ["lapsed"]],
    ["a decision", { kind: "branch", cases: [{ name: "A" }, { name: "B" }] }, ["A", "B", "otherwise"], []],
    [
      "a decision by a table, each result once",
      { kind: "branch", cases: [], table: { rows: [{ result: "high" }, { result: "low" }, { result: "high" }] } },
      ["high", "low", "otherwise"],
      [],
    ],
    ["an automated step", { kind: "automation", action: "lane.close" }, ["ok", "already closed"], ["failed"]],
    ["one whose action is not known", { kind: "automation", action: "gone" }, ["ok"], ["failed"]],
    ["a measurement", { kind: "capture" }, ["ok"], ["failed"]],
    ["a check", { kind: "check" }, ["pass", "fail"], []],
    [
      "a check that somebody looks at",
      { kind: "check", review: { is: "requester" } },
      ["pass", "fail"],
      ["measure again", "put back"],
    ],
    ["a message", { kind: "notify" }, ["sent"], ["undelivered"]],
    ["a message in the room", { kind: "notify", room: { name: "R" } }, ["sent"], []],
    ["an update", { kind: "update" }, ["done"], []],
    ["a wait for a length of time", { kind: "wait", span: "1 h" }, ["done"], []],
    ["a wait for a condition", { kind: "wait", condition: "x" }, ["done"], ["timed out"]],
    ["a wait for a signal", { kind: "wait", signal: "up" }, ["done"], ["timed out"]],
    ["a wait for a reply", { kind: "wait", replyOf: { is: "requester" } }, ["done"], ["timed out"]],
    ["a call", { kind: "call", ways: { closed: "a", stopped: "b" } }, ["closed"], ["stopped"]],
    ["calling people in", { kind: "escalate" }, ["accepted"], ["exhausted"]],
    ["a stage", { kind: "stage", ...body(end("e", "line", "x")) }, ["done"], ["failed"]],
    [
      "a stage with ways of its own",
      { kind: "stage", ...body(end("e", "leave", "too late")) },
      ["done", "too late"],
      ["failed"],
    ],
    ["a stage that puts back", { kind: "stage", ...body(end("e", "put back", "b")) }, ["done", "put back"], ["failed"]],
    [
      "one that puts back from inside a loop",
      { kind: "stage", ...body(step({ kind: "repeat", id: "r", ...body(end("e", "put back", "b")) })) },
      ["done", "put back"],
      ["failed"],
    ],
    [
      "but not for a stage inside it, which puts back itself",
      { kind: "stage", ...body(step({ kind: "stage", id: "r", ...body(end("e", "put back", "b")) })) },
      ["done"],
      ["failed"],
    ],
    [
      "lanes",
      {
        kind: "fork",
        lanes: [
          { name: "A", ...body(end("e", "leave", "stop")) },
          { name: "B", ...body(end("f", "leave", "stop")) },
        ],
      },
      ["joined", "stop"],
      ["short"],
    ],
    ["for each", { kind: "for each", ...body() }, ["all ok", "some failed", "none"], []],
    ["repeat", { kind: "repeat", ...body() }, ["done", "gave up"], []],
    ["an end", { kind: "end" }, [], []],
  ])("%s", (_, over, exits, optional) => {
    expect(exitsOf(step(over), ACTIONS)).toEqual(exits);
    expect(optionalExitsOf(step(over))).toEqual(optional);
  });

  it("has the first as the expected one, unless another is wished for that exists", () => {
    const task = { kind: "task", outcomes: ["A", "B"] };
    expect(expectedOf(step(task), ACTIONS)).toBe("A");
    expect(expectedOf(step({ ...task, expected: "B" }), ACTIONS)).toBe("B");
    expect(expectedOf(step({ ...task, expected: "gone" }), ACTIONS)).toBe("A");
    expect(expectedOf(step({ kind: "end" }), ACTIONS)).toBeNull();
  });
});

describe("a version as a route", () => {
  const inner = step({ kind: "update", id: "inner", ways: { done: "e" } });
  const stage = step({
    kind: "stage",
    id: "stage",
    ways: { done: "out", failed: "out" },
    ...body(inner, end("e", "line", "x")),
  });
  const version = { body: { steps: [stage, end("out", "line", "out")] } } as unknown as Version;

  it("has every step at every depth, in reading order", () => {
    expect(allSteps(version.body.steps).map((s) => s.id)).toEqual(["stage", "inner", "e", "out"]);
    expect(linesOf(inner)).toEqual([]);
    expect(waysOf(end("e", "line", "x"))).toEqual({});
  });

  it("draws optional exits only where they lead somewhere, and ways of exits that are gone", () => {
    const [drawn] = routeSteps(version, ACTIONS);
    expect(drawn?.exits).toEqual([
      { name: "done", to: "out" },
      { name: "failed", to: "out" },
    ]);
    const task = step({ kind: "task", id: "t", outcomes: ["A"], ways: { Gone: "out" } });
    const [lost] = routeSteps({ body: { steps: [task] } } as unknown as Version, ACTIONS);
    expect(lost?.exits).toEqual([
      { name: "A", to: null },
      { name: "Gone", to: "out" },
    ]);
  });

  it("leaves the inside of what is folded away", () => {
    expect(routeSteps(version, ACTIONS)[0]?.lines?.[0]?.steps.map((s) => s.id)).toEqual(["inner", "e"]);
    expect(routeSteps(version, ACTIONS, new Set(["stage"]))[0]?.lines).toEqual([]);
  });
});
