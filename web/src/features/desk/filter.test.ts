import { describe, expect, it } from "vitest";
import { asFilter, asQuery, type DeskFilter, isPlain, type Row, shows } from "./filter";

const row = (change: Partial<Row>): Row => ({
  id: "v1",
  ticket: "I-1042",
  kind: "task",
  title: "Look at the gate",
  sub: "task · I-1042 · Gate 2 stands open",
  priority: "P2",
  mine: false,
  ...change,
});

describe("the Desk's filter", () => {
  it.each<[string, DeskFilter, Partial<Row>, boolean]>([
    ["nothing is filtered", {}, {}, true],
    ["a word of the title", { text: "gate" }, {}, true],
    ["a word of the ticket", { text: "stands" }, {}, true],
    ["words from both, in any order and case", { text: "OPEN look" }, {}, true],
    ["one word that is nowhere", { text: "gate kiosk" }, {}, false],
    ["a priority", { text: "p2" }, {}, true],
    ["tasks", { kind: "tasks" }, {}, true],
    ["tasks are no decisions", { kind: "decisions" }, {}, false],
    ["an approval is a decision", { kind: "decisions" }, { kind: "approval" }, true],
    ["so is a check to look at", { kind: "decisions" }, { kind: "review" }, true],
    ["a call-in is something else", { kind: "else" }, { kind: "call-in" }, true],
    ["my group's is not mine by name", { own: true }, {}, false],
    ["what I claimed is mine", { own: true }, { mine: true }, true],
    ["all parts count together", { own: true, kind: "tasks", text: "kiosk" }, { mine: true }, false],
  ])("%s", (_, filter, change, shown) => {
    expect(shows(filter, row(change))).toBe(shown);
  });

  it.each<DeskFilter>([{}, { text: "gate 2" }, { kind: "decisions", own: true }, { text: "a&b=c", kind: "else" }])(
    "comes back from its view: %j",
    (filter) => {
      expect(asFilter(Object.fromEntries(new URLSearchParams(asQuery(filter))))).toEqual(filter);
    },
  );

  it("leaves alone what an address holds besides", () => {
    expect(asFilter({ item: "v1", kind: "nonsense", own: "perhaps" })).toEqual({});
    expect(isPlain(asFilter({ item: "v1" }))).toBe(true);
  });
});
