import { describe, expect, it } from "vitest";
import type { Run, Step } from "../../api/types";
import { consequences, type Kind } from "./consequences";

const step = (id: string, name: string, more: object = {}) =>
  ({ id, name, kind: "task", outcomes: ["Done"], ways: { Done: "end" }, ...more }) as unknown as Step;

const STEPS = new Map<string, Step>(
  [
    step("look", "Look at the gate", { ways: { Done: "close", Bad: "end" } }),
    step("close", "Close the lane", { kind: "automation", putBack: { action: "lane.open", inputs: {} } }),
    step("warm", "Warm it up", { kind: "automation" }),
    step("off", "Switch the alarm off", { kind: "automation", putBack: { action: "alarm.on", inputs: {} } }),
    step("part", "Change the part", { kind: "stage" }),
    step("end", "Closed", { kind: "end", ways: {} }),
  ].map((s) => [s.id, s]),
);

const visit = (n: number, at: string, exit?: string): Run["visits"][number] => ({
  id: `I-1.1.${n}`,
  step: at,
  openedAt: "2026-11-27T10:00:00.000Z",
  ...(exit ? { exit, endedAt: "2026-11-27T10:05:00.000Z" } : {}),
});

const run = (offForNow: string[], ...visits: Run["visits"]) => ({ offForNow, visits });

describe("what an intervention would do", () => {
  const atWork = run(["off"], visit(1, "off", "ok"), visit(2, "close", "ok"), visit(3, "part"), visit(4, "look"));

  it.each<[Kind, object, string[]]>([
    ["hold", {}, ["Standing still: “Look at the gate”."]],
    ["resume", {}, ["Going on: “Look at the gate”."]],
    ["skip", { step: "look", exit: "Done" }, ["Next comes “Close the lane”."]],
    ["skip", { step: "look" }, []],
    ["move to version", {}, []],
    [
      "stop run",
      {},
      [
        "Withdrawn: “Look at the gate”.",
        "Stays switched off: “Switch the alarm off”. To switch it on again, stop and put back.",
      ],
    ],
    [
      "stop and put back",
      {},
      ["Withdrawn: “Look at the gate”.", "Undone, in this order: “Close the lane”, “Switch the alarm off”."],
    ],
    [
      "re-run from",
      { step: "close" },
      ["Withdrawn: “Look at the gate”.", "Forgotten: what “Close the lane” found.", "Goes on at “Close the lane”."],
    ],
  ])("%s %j", (kind, chosen, lines) => {
    expect(consequences(kind, atWork, STEPS, chosen)).toEqual(lines);
  });

  it("says when there is nothing to undo: what failed, was withdrawn, or has no put-back", () => {
    const done = run([], visit(1, "warm", "ok"), visit(2, "close", "failed"), visit(3, "off", "withdrawn"));
    expect(consequences("stop and put back", done, STEPS)).toEqual(["There is nothing to undo."]);
  });

  it("names each step once that is forgotten, and nothing of steps before it", () => {
    const looped = run([], visit(1, "off", "ok"), visit(2, "close", "ok"), visit(3, "close", "ok"), visit(4, "look"));
    expect(consequences("re-run from", looped, STEPS, { step: "close" })).toContain(
      "Forgotten: what “Close the lane” found.",
    );
  });

  it("knows steps of another version by their ids", () => {
    expect(consequences("hold", run([], visit(1, "gone")), STEPS)).toEqual(["Standing still: “gone”."]);
  });
});
