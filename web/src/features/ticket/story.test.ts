import { describe, expect, test } from "vitest";
import type { Entry } from "../../api/types";
import { lensOf, story } from "./story";

const names = {
  person: (id?: string) => ({ runa: "Runa Feld", teo: "Teo Marchetti" })[id ?? ""] ?? id ?? "",
  group: (id?: string) => (id === "pier" ? "Pier technicians" : (id ?? "")),
  rota: (key?: string) => key ?? "",
  service: (id?: string) => id ?? "",
  directory: { fields: [{ name: "state", label: "State", type: "text" }], ciFields: [{ name: "lane", label: "Lane" }] },
};

const entry = (kind: string, body: object, content?: object, actor: object = { is: "system" }): Entry =>
  ({
    seq: 1,
    at: "2026-03-02T10:00:00.000Z",
    actor,
    kind,
    body,
    content,
    redacted: false,
    hash: "",
  }) as unknown as Entry;

const told = (e: Entry) =>
  story(e, names)
    .parts.map((p) => (typeof p === "string" ? p : p.strong))
    .join("");

describe("the record tells its story", () => {
  test.each<[string, Entry]>([
    [
      "Runa Feld raised the ticket, priority P2, CI ALD-G1",
      entry("ticketRaised", { fields: { priority: "P2", ci: "ALD-G1" } }, {}, { is: "person", person: "runa" }),
    ],
    ["Looked at 1 trigger: none started a workflow", entry("triggersLookedAt", { looked: 1, started: [] })],
    ["Looked at 2 triggers: 1 started a workflow", entry("triggersLookedAt", { looked: 2, started: ["t"] })],
    ["Task for Pier technicians: Look", entry("taskOffered", { name: "Look", to: { groups: ["pier"], people: [] } })],
    ["Runa Feld: Fixed", entry("taskDone", { by: "runa", exit: "Fixed" })],
    ["Runa Feld answered too late: the task was closed already", entry("cameTooLate", { by: "runa", what: "task" })],
    [
      "Asked for approval: Close? (round 2)",
      entry("approvalAsked", { name: "Close?", round: 2, electorate: ["teo"], rule: "any one" }),
    ],
    ["Teo Marchetti declined", entry("voteCast", { by: "teo", yes: false }, { comment: "no" })],
    [
      "ok in 12 s, on try 2, asked 3 times",
      entry("callDone", { exit: "ok", tookMillis: 12_000, attempt: 2, polls: 3 }),
    ],
    ["Try 1 has an unknown outcome; tried again", entry("attemptFailed", { attempt: 1, unknown: true, nextAt: "x" })],
    [
      "Rung 2 (late): tells Pier technicians",
      entry("rungFired", { rung: 2, late: true, deed: { does: "tell", to: [{ is: "group", group: "pier" }] } }),
    ],
    ["Mail to Runa Feld could not be delivered", entry("messageFailed", { person: "runa", tries: 4 })],
    ["Stalled: nobody", entry("stalled", { code: "nobody" })],
  ])("%s", (sentence, e) => expect(told(e)).toBe(sentence));

  test("changes are told with before and after, and with the field's own name", () => {
    const s = story(
      entry(
        "updated",
        { changes: { state: { before: "logged", after: "closed" } } },
        { ciChanges: { lane: { after: "closed" } } },
      ),
      names,
    );
    expect(s.rows).toEqual([
      ["State", "logged → closed"],
      ["CI: Lane", "closed"],
    ]);
  });

  test("who acts for another is named with them", () => {
    const cover = { is: "person", person: "runa", coverFor: "teo" };
    expect(told(entry("voteCast", { by: "teo", yes: true }, undefined, cover))).toBe(
      "Runa Feld for Teo Marchetti approved",
    );
  });

  test("redacted content is simply missing", () => {
    expect(told(entry("noteAdded", { toRequester: false }, undefined, { is: "person", person: "runa" }))).toBe(
      "Runa Feld noted",
    );
  });

  test("each lens has its entries", () => {
    expect(lensOf(entry("voteCast", {}))).toBe("Approvals");
    expect(lensOf(entry("callDone", {}))).toBe("Automation");
    expect(lensOf(entry("triggersLookedAt", {}))).toBeUndefined();
  });
});
