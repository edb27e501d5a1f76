import { produce } from "immer";
import { describe, expect, test } from "vitest";
import type { Step, Version } from "../../api/types";
import { addAfter, begin, detourExit, idFor, leadingTo, newStep, relead, removeStep, renameExit } from "./model";

const empty: Version = {
  key: "w",
  number: 1,
  name: "W",
  owner: "ines",
  startForm: [],
  vars: [],
  results: [],
  conditions: {},
  notes: {},
  body: { steps: [] },
};
const task = (id: string, ways: Record<string, string>): Step => ({
  kind: "task",
  id,
  name: id,
  assignee: { is: "ticketGroup" },
  outcomes: Object.keys(ways),
  mayLeaveOut: false,
  ways,
});
const end = (id: string): Step => ({ kind: "end", id, name: id, result: id, ending: "line" });
const line: Version = {
  ...empty,
  body: { steps: [task("a", { Done: "b", Not: "c" }), task("b", { Done: "c" }), end("c")] },
};
const waysOf = (v: Version, id: string) =>
  (v.body.steps.find((s) => s.id === id) as { ways: Record<string, string> }).ways;

describe("editing a draft", () => {
  test("a step put on a way leads on to where the way went", () => {
    const step = newStep("notify", "Tell", line, []);
    const next = produce(line, (d) => addAfter(d, "a", "Done", step, []));
    expect(waysOf(next, "a")).toEqual({ Done: "tell", Not: "c" });
    expect(waysOf(next, "tell")).toEqual({ sent: "b" });
    expect(line.body.steps).toHaveLength(3);
  });

  test("the first step of an empty route needs nothing before it", () => {
    expect(produce(empty, (d) => addAfter(d, undefined, undefined, end("x"), [])).body.steps).toHaveLength(1);
  });

  test("taking a step away leads its ways on", () => {
    const next = produce(line, (d) => removeStep(d, "b", []));
    expect(waysOf(next, "a")).toEqual({ Done: "c", Not: "c" });
  });

  test("taking the end away leaves the ways open rather than wrong", () => {
    expect(
      waysOf(
        produce(line, (d) => removeStep(d, "c", [])),
        "b",
      ),
    ).toEqual({});
  });

  test("an exit is led elsewhere, or nowhere", () => {
    expect(
      waysOf(
        produce(line, (d) => relead(d, "a", "Not", "b")),
        "a",
      ),
    ).toEqual({ Done: "b", Not: "b" });
    expect(
      waysOf(
        produce(line, (d) => relead(d, "a", "Not", undefined)),
        "a",
      ),
    ).toEqual({ Done: "b" });
  });

  test("a renamed outcome keeps its way", () => {
    const renamed = renameExit(task("a", { Done: "b", Not: "c" }), "Not", "Needs a part") as {
      outcomes: string[];
      ways: object;
    };
    expect(renamed.outcomes).toEqual(["Done", "Needs a part"]);
    expect(renamed.ways).toEqual({ Done: "b", "Needs a part": "c" });
  });

  test("a detour leaves by the first exit that leads nowhere yet", () => {
    expect(detourExit({ ...task("a", { Done: "b" }), outcomes: ["Done", "Not", "Later"] } as Step, [])).toBe("Not");
  });
});

test.each([
  ["ask Look at the gate", "task", "Look at the gate"],
  ["tell the requester", "notify", "The requester"],
  ["Look around", undefined, "Look around"],
])("typing %s begins %s", (typed, kind, name) => expect(begin(typed)).toEqual({ kind, name }));

test("ids are words of the name that nobody else has", () => {
  expect(idFor("Look at the gate!", line)).toBe("lookAtThe");
  expect(idFor("a", line)).toBe("a2");
  expect(idFor("42 things", line)).toBe("step42Things");
});

test("what goes before an end goes onto the main line's way to it, else onto any (D5)", () => {
  expect(leadingTo(line, "c", [])).toEqual({ step: "b", exit: "Done" });
  const detour: Version = { ...line, body: { steps: [task("a", { Done: "b", Not: "d" }), end("b"), end("d")] } };
  expect(leadingTo(detour, "d", [])).toEqual({ step: "a", exit: "Not" });
  expect(leadingTo(line, "a", [])).toBeUndefined();
});

test("a step that is put in is not the one that was made: the same sentence makes it again (D3)", () => {
  const made = Object.freeze(task("n", { Done: "" }));
  const put = () => produce(line, (d) => addAfter(d, "a", "Done", structuredClone(made), []));
  expect(put()).toEqual(put());
  expect(made.kind === "task" && made.ways.Done).toBe("");
});
