import { describe, expect, it, test } from "vitest";
import type { Deed, Party } from "../../api/types";
import { assignedWords, deedWords, partyWords, saidWords, valueWords } from "./words";

const names = {
  person: (id?: string) => `Person ${id}`,
  group: (id?: string) => `Group ${id}`,
  rota: (key?: string) => `Rota ${key}`,
};

describe("people in words", () => {
  test.each<[string, Party]>([
    ["Group pier", { is: "group", group: "pier" }],
    ["Person teo", { is: "person", person: "teo" }],
    ["the requester", { is: "requester" }],
    ["the ticket’s group", { is: "ticketGroup" }],
    ["the CI’s owner", { is: "ciOwner" }],
    ["on call, Rota duty", { is: "onCall", rota: "duty", level: 1 }],
    ["second on call, Rota duty", { is: "onCall", rota: "duty", level: 2 }],
    ["everybody who is auditor", { is: "role", role: "auditor" }],
    ["the requester’s manager", { is: "manager" }],
    ["whoever is scribe", { is: "takesPart", as: "scribe" }],
    ["whoever is ci.owner", { is: "computed", expression: "ci.owner" }],
  ])("%s", (words, party) => expect(partyWords(party, names)).toBe(words));

  test("several are listed, groups first", () => {
    expect(assignedWords({ groups: ["pier"], people: ["teo", "priya"] }, names)).toBe(
      "Group pier, Person teo, Person priya",
    );
  });
});

describe("rungs in words", () => {
  test.each<[string, Deed]>([
    ["reminds those who are asked", { does: "remind" }],
    ["tells Person teo, the requester", { does: "tell", to: [{ is: "person", person: "teo" }, { is: "requester" }] }],
    ["asks Group pier as well", { does: "add", to: [{ is: "group", group: "pier" }] }],
    ["hands over to Group pier", { does: "hand over", to: { is: "group", group: "pier" } }],
    ["raises the priority", { does: "raise priority" }],
    ["takes “Give up”", { does: "decide", exit: "Give up" }],
  ])("%s", (words, deed) => expect(deedWords(deed, names)).toBe(words));
});

test.each([
  [undefined, "nothing"],
  [null, "nothing"],
  ["", "nothing"],
  [0, "0"],
  [false, "no"],
  [["a", ["b", 2]], "a, b, 2"],
])("the value %j is said as %s", (value, words) => expect(valueWords(value)).toBe(words));

describe("values as people say them (R1, R4)", () => {
  it.each([
    [
      [
        { board: "ALD-03", age: 12 },
        { board: "ALD-04", age: 3.25 },
      ],
      "2 rows: board ALD-03, age 12; board ALD-04, age 3.25",
    ],
    [["a", "b"], "a, b"],
    [[], "nothing"],
    [{ lock: "L-1", ok: true }, "lock L-1, ok yes"],
    [{}, "nothing"],
    [0.940677966101695, "0.9407"],
    [1234567, "1234567"],
    [Array.from({ length: 15 }, (_, i) => i), "0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11 and 3 more"],
    ["2026-11-23T14:30:00.000Z", expect.stringMatching(/^\w{3} \d+ Nov, \d\d:30$/)],
    ["plain text", "plain text"],
  ])("%j is %s", (value, words) => {
    expect(valueWords(value)).toEqual(words);
    expect(valueWords(value)).not.toContain("[object");
  });

  it("are found in what a machine wrote", () => {
    expect(saidWords("0.940677966101695, needs at least 0.95.")).toBe("0.9407, needs at least 0.95.");
    expect(saidWords("seen 2026-11-23T14:30:00.000Z")).not.toContain("T14");
    expect(saidWords("version 10.30.0.0001 stays")).toBe("version 10.30.0.0001 stays");
  });
});
