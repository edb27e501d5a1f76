import { describe, expect, test } from "vitest";
import type { Deed, Party } from "../../api/types";
import { assignedWords, deedWords, partyWords, valueWords } from "./words";

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
