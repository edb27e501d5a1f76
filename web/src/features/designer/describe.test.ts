import { expect, test } from "vitest";
import type { Action, Step, StepOf } from "../../api/types";
import { ruleWords, describe as said } from "./describe";

const names = {
  person: (id?: string) => id ?? "",
  group: (id?: string) => `Group ${id}`,
  rota: (key?: string) => key ?? "",
};
const actions = [
  {
    key: "lane.close",
    name: "Close the lane",
    connection: "lanes",
    timeLimit: "20 s",
    tries: 3,
    inputs: [{ name: "lane", label: "Lane" }],
  },
] as unknown as Action[];
const ladder = (key?: string) => (key === "pier" ? "Pier ladder" : undefined);
const step = (over: object) => ({ id: "s", name: "S", ways: {}, ...over }) as unknown as Step;
const of = (over: object) => {
  const { line, who, when } = said(step(over), names, actions, ladder);
  return [line, who, when];
};
const body = { steps: [step({ kind: "end" }), step({ kind: "end" })] };

test.each<[string, object, string[]]>([
  [
    "a task",
    { kind: "task", assignee: { is: "group", group: "pier" }, instructions: "Look", due: "30 min", ladder: "pier" },
    ["“Look”", "Group pier", "30 min · Pier ladder"],
  ],
  ["an empty task", { kind: "task", assignee: { is: "requester" } }, ["", "the requester", ""]],
  [
    "an approval",
    {
      kind: "approval",
      asked: [{ is: "group", group: "m" }],
      rule: { rule: "at least", count: 2 },
      notRequester: true,
      setsOff: "it",
      within: "4 h",
    },
    ["at least 2 · not the requester · sets off: it", "Group m", "4 h"],
  ],
  [
    "an approval of a share",
    { kind: "approval", asked: [], rule: { rule: "share", percent: 60 } },
    ["at least 60 percent", "nobody yet", ""],
  ],
  ["an approval of anybody", { kind: "approval", asked: [], rule: { rule: "any one" } }, ["any one", "nobody yet", ""]],
  ["a measurement", { kind: "capture", action: "lane.close" }, ["measures with Close the lane", "machine", ""]],
  ["an unknown one", { kind: "capture", action: "none" }, ["measures with none", "unknown action", ""]],
  [
    "a check",
    {
      kind: "check",
      rules: [{ name: "Fare", value: "m.fare", compare: "is", against: "5", sense: "should stay" }],
      review: { is: "manager" },
      settle: "2 min",
    },
    ["Fare: m.fare is 5, as before", "reviewed by the requester’s manager", "settles within 2 min"],
  ],
  ["a check without rules", { kind: "check", rules: [] }, ["no rules yet", "", ""]],
  ["a call", { kind: "call", workflow: "w" }, ["runs w", "another workflow", ""]],
  [
    "a call on a new ticket",
    { kind: "call", workflow: "w", on: { is: "new", raises: "change" } },
    ["runs w", "on a new change", ""],
  ],
  [
    "a call on a known one",
    { kind: "call", workflow: "w", on: { is: "known", number: "vars.n" } },
    ["runs w", "on the ticket vars.n", ""],
  ],
  [
    "a call-in",
    { kind: "escalate", message: "Come", ladder: "pier", as: "scribe", within: "1 h" },
    ["as scribe · “Come”", "Pier ladder", "1 h"],
  ],
  ["a stage", { kind: "stage", body }, ["2 steps inside", "", ""]],
  [
    "lanes",
    {
      kind: "fork",
      lanes: [
        { name: "A", body },
        { name: "B", when: "x", body },
      ],
    },
    ["A · B if x", "until all are done", ""],
  ],
  ["a race", { kind: "fork", lanes: [{ name: "A", body }], first: 1 }, ["A", "until the first 1 are done", ""]],
  [
    "items",
    { kind: "for each", item: "k", list: "vars.l", atOnce: 3, stopAtFirst: true, body },
    ["each k of vars.l", "3 at a time", "stops at a failure"],
  ],
  [
    "items in order",
    { kind: "for each", item: "k", list: "vars.l", atOnce: 1, body },
    ["each k of vars.l", "one after the other", ""],
  ],
  [
    "a repeat",
    { kind: "repeat", until: "x", pause: "1 min", rounds: 9, within: "1 h", body },
    ["until x", "every 1 min · at most 9 rounds", "1 h"],
  ],
  ["a branch", { kind: "branch", cases: [{ name: "big", when: "x" }] }, ["big if x", "", ""]],
  [
    "a table",
    { kind: "branch", cases: [], table: { rows: [1], inputs: [{ label: "Impact" }, { label: "Site" }] } },
    ["table of 1 row over Impact, Site", "", ""],
  ],
  [
    "an action",
    { kind: "automation", action: "lane.close", inputs: { gate: "ticket.ci" } },
    ["Close the lane · gate: the CI", "machine · lanes", "20 s · 3 tries"],
  ],
  ["an action once", { kind: "automation", action: "none", inputs: {} }, ["none", "unknown action", ""]],
  ["a message", { kind: "notify", to: [{ is: "requester" }], subject: "S" }, ["message · “S”", "the requester", ""]],
  [
    "an invitation",
    { kind: "notify", to: [{ is: "requester" }], subject: "S", invites: { from: "now", until: "now" } },
    ["invitation · “S”", "the requester", ""],
  ],
  [
    "an invitation that is called off",
    { kind: "notify", to: [{ is: "requester" }], subject: "S", invites: { off: "a" } },
    ["calls an invitation off · “S”", "the requester", ""],
  ],
  ["words in a room", { kind: "notify", to: [], subject: "S", room: {} }, ["in the room · “S”", "nobody yet", ""]],
  [
    "an update",
    {
      kind: "update",
      set: [
        { target: "a", value: "1" },
        { target: "b", text: "x" },
      ],
    },
    ["a: 1 · b: “x”", "", ""],
  ],
  [
    "an update of another CI",
    { kind: "update", of: "near.runsOn[0].id", set: [{ target: "ci.life", value: "'retired'" }] },
    ["of the CI near.runsOn[0].id · the CI’s life: “retired”", "", ""],
  ],
  [
    "an update that names a group",
    { kind: "update", set: [{ target: "ticket.group", value: "'pier'" }] },
    ["the group: Group pier", "", ""],
  ],
  ["a pause", { kind: "wait", span: "5 min" }, ["for 5 min", "", ""]],
  ["a wait for something", { kind: "wait", condition: "x", within: "1 h" }, ["until x", "", "at most 1 h"]],
  ["a wait for a signal", { kind: "wait", signal: "up", key: "b1" }, ["for the signal up of b1", "", ""]],
  ["a wait for a reply", { kind: "wait", replyOf: { is: "requester" } }, ["for a reply of the requester", "", ""]],
  ["a wait until a moment", { kind: "wait", until: "ticket.plannedStart" }, ["until ticket.plannedStart", "", ""]],
  ["an end", { kind: "end", ending: "run", message: "m" }, ["ends the whole run · tells the requester", "", ""]],
])("%s says what it does, who and by when", (_, over, row) => expect(of(over)).toEqual(row));

test.each<[string, object]>([
  ["v holds", { value: "v", compare: "holds" }],
  ["v within 5 % of w", { value: "v", compare: "within", share: 5, against: "w" }],
  ["v above …", { value: "v", compare: "above" }],
])("a rule reads %s", (words, rule) => expect(ruleWords(rule as StepOf<"check">["rules"][number])).toBe(words));

test("what is measured is called as its action calls it, and a rule’s name is not said twice", () => {
  const actions = [
    { key: "card.read", name: "Read", outputs: [{ field: { name: "adult", label: "Adult fare" } }] },
  ] as unknown as Action[];
  const step = {
    kind: "check",
    id: "c",
    name: "Fares",
    measure: "card.read",
    inputs: {},
    ways: {},
    rules: [
      { name: "Adult fare", value: "measured.adult", compare: "is", against: "input.adult" },
      { name: "Child fare", value: "measured.child", compare: "is", against: "'2.10'", sense: "should stay" },
    ],
  } as unknown as Step;
  const says = (path: string) => (path === "input.adult" ? "Adult fare (asked at the start)" : path);
  expect(said(step, names, actions, () => undefined, says).line).toBe(
    "Adult fare is Adult fare (asked at the start); Child fare: the measured child is “2.10”, as before",
  );
});
