import { describe, expect, test } from "vitest";
import source from "../../../../core/src/main/java/dastur/core/run/Event.java?raw";
import list from "../../../../docs/kinds.md?raw";
import type { Entry } from "../../api/types";
import { LENSES, lensOf, markOf } from "./lenses";
import { story } from "./story";

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

describe("the record speaks words", () => {
  test("why a workflow left a task out, and what was shown to whoever decides", () => {
    const left = entry("taskLeftOut", { exit: "Done" }, { reason: "because ticket.impact == 2" });
    expect(story(left, names).quote).toBe("because impact is 2");
    const said = entry("taskLeftOut", { by: "runa", exit: "Done" }, { reason: "because I saw it" });
    expect(story(said, names).quote).toBe("because I saw it");
    const asked = entry(
      "approvalAsked",
      { name: "Close?", round: 1, electorate: ["teo"], rule: "any one" },
      { values: { "ticket.state": "new", "ci.site": "ALD", "ci.lane": "4", "steps.look.seen": "open" } },
    );
    expect(story(asked, names).rows?.map((r) => r[0])).toEqual(["State", "CI: Site", "CI: Lane", "steps.look.seen"]);
  });
});

test("an entry that was forged or is of another release does not keep the others from being read", () => {
  expect(told(entry("putBackBegan", {}))).toBe("putBackBegan: it does not hold what such an entry holds");
  expect(told(entry("inventedLater", { a: 1 }))).toBe("inventedLater");
});

describe("the record tells its story", () => {
  test.each<[string, Entry]>([
    [
      "Runa Feld raised the ticket, priority P2, CI ALD-G1",
      entry("ticketRaised", { fields: { priority: "P2", ci: "ALD-G1" } }, {}, { is: "person", person: "runa" }),
    ],
    ...(
      [
        ["begins", 1, "boards says: Board 7 stands still"],
        ["worse", 1, "boards says that it got worse: Board 7 stands still"],
        ["repeats", 1, "boards says again: Board 7 stands still"],
        ["repeats", 12, "boards said 12 times more: Board 7 stands still"],
        [
          "still in fault",
          1,
          "boards says that it is well, while another still reports the fault: Board 7 stands still",
        ],
        ["nothing to recover", 1, "boards says that it is well, which nobody had doubted: Board 7 stands still"],
        ["out of order", 1, "boards says what was before the last fault: Board 7 stands still"],
        ["recovered", 1, "boards says that it has recovered: Board 7 stands still"],
        ["unsteady", 1, "boards says, as it turns to and fro: Board 7 stands still"],
      ] as [string, number, string][]
    ).map(([turn, count, words]): [string, Entry] => [
      words,
      entry(
        "signalsHeard",
        { source: "boards", turn, count, first: "2026-03-02T10:00:00Z", last: "2026-03-02T10:00:00Z" },
        { title: "Board 7 stands still" },
      ),
    ]),
    ["Looked at 1 trigger: none started a workflow", entry("triggersLookedAt", { looked: 1, started: [] })],
    ["Looked at 2 triggers: 1 started a workflow", entry("triggersLookedAt", { looked: 2, started: ["t"] })],
    ["Task for Pier technicians: Look", entry("taskOffered", { name: "Look", to: { groups: ["pier"], people: [] } })],
    ["Runa Feld: Fixed", entry("taskDone", { by: "runa", exit: "Fixed" })],
    ["Runa Feld as overseer: Fixed", entry("taskDone", { by: "runa", exit: "Fixed", asOverseer: true })],
    ["Left pier · Runa Feld: Fixed", { ...entry("taskDone", { by: "runa", exit: "Fixed" }), stepName: "Left pier" }],
    [
      "Task for Pier technicians: Look",
      { ...entry("taskOffered", { name: "Look", to: { groups: ["pier"], people: [] } }), stepName: "Look" },
    ],
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
        { ciChanges: { lane: { after: "closed" }, "wished values": { after: { lane: "open", site: "ALD" } } } },
      ),
      names,
    );
    expect(s.rows).toEqual([
      ["State", "logged → closed"],
      ["CI: Lane", "closed"],
      ["CI: as it was wished", "Lane open · site ALD"],
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

const runa = { is: "person", person: "runa" };
const condition = { condition: "ticket.impact < 3", verdict: "true", clauses: [{ seen: { "ticket.impact": 2 } }] };
const rules = [
  { name: "Adult", holds: true, why: "5 is 5", sense: "should turn good" },
  { name: "Child", holds: false, why: "3 is not 2", sense: "should stay" },
];

describe("every kind of entry has its sentence", () => {
  test.each<[string, Entry]>([
    ["Runa Feld changed the ticket", entry("ticketChanged", { changes: {} }, {}, runa)],
    ["Runa Feld wrote for the requester", entry("noteAdded", { toRequester: true }, { text: "t" }, runa)],
    ["Runa Feld attached gate.png", entry("fileAttached", { hash: "a".repeat(64) }, { name: "gate.png" }, runa)],
    ["Runa Feld attached a file, since taken off the record", entry("fileAttached", { hash: "a" }, {}, runa)],
    [
      "Runa Feld asked Pier technicians to help",
      entry("helpAsked", { to: { groups: ["pier"], people: [] } }, {}, runa),
    ],
    ["Now it is the turn of Teo Marchetti", entry("approvalTurn", { people: ["teo"] })],
    ["Teo Marchetti asks before deciding; the clocks stand still", entry("askedBack", { by: "teo" })],
    ["Runa Feld answered; the clocks run on", entry("answeredBack", { pausedSeconds: 60 }, { text: "yes" }, runa)],
    ["Runa Feld looked at what came too late", entry("lateSettled", {}, { note: "n" }, runa)],
    ["Teo Marchetti took their vote back", entry("voteWithdrawn", { by: "teo" })],
    ["Asked whether to start W", entry("startOffered", { name: "W", asked: { groups: ["pier"], people: [] } })],
    ["Offered to start W", entry("startOffered", { name: "W", asked: { groups: [], people: [] } })],
    ["Runa Feld said to start W", entry("startAnswered", { name: "W", starts: true }, {}, runa)],
    ["Runa Feld said not to start W", entry("startAnswered", { name: "W", starts: false }, {}, runa)],
    ["W version 2 started", entry("runStarted", { name: "W", version: 2 })],
    ["The run ended: closed", entry("runEnded", { result: "closed" })],
    ["Runa Feld left it out; went on by Done", entry("taskLeftOut", { by: "runa", exit: "Done" })],
    ["The workflow left it out; went on by Done", entry("taskLeftOut", { exit: "Done" })],
    ["Work: begins", entry("bracketOpened", { name: "Work", bracket: "stage" })],
    [
      "Both: 3 lines side by side, until the first 2 are done",
      entry("bracketOpened", { name: "Both", bracket: "fork", count: 3, needed: 2 }),
    ],
    [
      "Each: 1 item, one after the other",
      entry("bracketOpened", { name: "Each", bracket: "for each", count: 1, atOnce: 1 }),
    ],
    ["Each: 7 items, 3 at a time", entry("bracketOpened", { name: "Each", bracket: "for each", count: 7, atOnce: 3 })],
    ["Until: at most 5 rounds", entry("bracketOpened", { name: "Until", bracket: "repeat", count: 5 })],
    ["Number 1 began", entry("lineBegan", { index: 0 })],
    ["Number 2 is done", entry("lineEnded", { index: 1, done: true })],
    ["Number 2 has failed", entry("lineEnded", { index: 1, done: false })],
    ["Round 2: the condition does not hold yet", entry("roundJudged", { round: 2, holds: false }, { condition })],
    ["Left by all ok", entry("bracketLeft", { exit: "all ok" })],
    ["What was waited for came true", entry("conditionMet", {}, { condition })],
    ["The signal frozen came", entry("signalCame", { signal: "frozen" })],
    ["Everything is put back", entry("putBackBegan", { all: true, names: ["a", "b"] })],
    ["What was switched off for a time is put back", entry("putBackBegan", { all: false, names: [] })],
    ["Not put back: gates", entry("putBackEnded", { left: ["gates"] })],
    ["All was put back", entry("putBackEnded", { left: [] })],
    ["Called the workflow w version 3", entry("workflowCalled", { workflow: "w", version: 3 })],
    ["Sent the workflow W to a new change", entry("workflowSent", { name: "W", raises: "change" })],
    ["Sent the workflow W to C-7", entry("workflowSent", { name: "W", ticket: "C-7" })],
    ["It began on C-7", entry("sentRunBegan", { run: "C-7.1" })],
    ["It ended on C-7: done", entry("sentRunEnded", { run: "C-7.1", result: "done" })],
    ["Recalled it from C-7: the caller is over", entry("sentRunRecalled", { run: "C-7.1", why: "the caller is over" })],
    ["Runa Feld linked it: caused by I-4", entry("ticketLinked", { as: "caused by", other: "I-4" }, {}, runa)],
    [
      "Runa Feld took the link away: caused by I-4",
      entry("ticketUnlinked", { as: "caused by", other: "I-4" }, {}, runa),
    ],
    ["Runa Feld replied", entry("replyCame", { by: "runa" })],
    ["The called workflow ended: done on C-7", entry("calledEnded", { result: "done", ticket: "C-7" })],
    ["Measured in 2 s", entry("measured", { tookMillis: 2000 })],
    ["Judged twice: 1 of 2 rules hold; judged again", entry("checkJudged", { tries: 2, held: 1, rules: 2 })],
    ["passed: 2 of 2 rules hold", entry("checked", { exit: "pass", held: 2, rules: 2, tries: 1 })],
    [
      "failed: 1 of 2 rules hold, judged 3 times",
      entry("checked", { exit: "fail", held: 1, rules: 2, tries: 3 }, { last: rules }),
    ],
    [
      "Asked Pier technicians to look: 1 of 2 rules hold",
      entry("reviewAsked", { to: { groups: ["pier"], people: [] }, held: 1, rules: 2 }),
    ],
    ["Runa Feld: accept", entry("reviewed", { by: "runa", verdict: "accept" })],
    ["Calls people in: Lead it as commander", entry("callInBegan", { name: "Lead it", as: "commander" })],
    ["Teo Marchetti is coming as commander", entry("callInAnswered", { by: "teo", accepted: true, as: "commander" })],
    ["Teo Marchetti cannot come", entry("callInAnswered", { by: "teo", accepted: false })],
    ["Runa Feld took the content of entry 7 away", entry("redacted", { seq: 7 }, {}, runa)],
    ["Runa Feld claimed it", entry("taskClaimed", { by: "runa" })],
    [
      "Runa Feld passed it on to Teo Marchetti",
      entry("taskPassedOn", { to: { groups: [], people: ["teo"] } }, {}, runa),
    ],
    ["Runa Feld handed it back", entry("taskHandedBack", { by: "runa" })],
    ["Runa Feld took back: Done", entry("taskTakenBack", { by: "runa", exit: "Done" })],
    ["The clocks: it waits", entry("targetsSet", { why: "it waits", targets: {} })],
    ["The time to restore is over", entry("targetMissed", { of: "restore" })],
    ["75 % of the time to restore has passed", entry("clockReached", { of: "restore", percent: 75 })],
    ["What was shown has changed; the approval is void and is asked again", entry("approvalVoided", {})],
    ["declined", entry("approvalClosed", { exit: "declined", yes: 1, no: 2, electorate: 3 })],
    ["Decided on data: high", entry("branched", { exit: "high" }, { conditions: [condition] })],
    ["Waits until ticket.state == 'x'", entry("waitBegan", { condition: "ticket.state == 'x'" })],
    ["Waits for the signal up of b1", entry("waitBegan", { signal: "up", key: "b1" })],
    ["Waits for a reply of Runa Feld", entry("waitBegan", { replyOf: { groups: [], people: ["runa"] } })],
    ["Went on by timed out", entry("left", { exit: "timed out" })],
    ["Ended: closed", entry("ended", { result: "closed" })],
    ["Started Close a lane", entry("callRequested", { actionName: "Close a lane", key: "k" })],
    ["Try 2", entry("callRepeated", { attempt: 2, key: "k" })],
    ["failed; the way for failure is taken", entry("callFailed", {}, { error: "no" })],
    [
      "already closed in 2 s, from where no way leads on; a person decides",
      entry("resultKept", { exit: "already closed", tookMillis: 2000 }, { outputs: { lock: "L-1" } }),
    ],
    ["Nobody knows whether it happened; a person decides", entry("callUnsure", {}, { why: "lost" })],
    ["A result came after withdrawal and moved nothing: ok", entry("lateResult", { outcome: "ok" })],
    ["Reminder to Teo Marchetti", entry("messageQueued", { purpose: "reminder", people: ["teo"] })],
    [
      "Mail to Teo Marchetti",
      entry(
        "messageQueued",
        { purpose: "notice", people: ["teo"] },
        { meeting: { key: "k", sequence: 1, from: "2026-03-03T21:30:00Z", until: "2026-03-03T23:30:00Z" } },
      ),
    ],
    ["Mail to nobody", entry("messageQueued", { purpose: "notice", people: [] })],
    ["Said in the room of this ticket", entry("roomTold", { invited: [] })],
    ["The room Boards is open", entry("roomOpened", { keepsAll: true }, { name: "Boards" })],
    ["1 line in the room", entry("roomTalked", { lines: 1 }, { said: [{ by: "teo", text: "here" }] })],
    ["Could not be said in the room", entry("roomFailed", {}, { why: "down" })],
    ["Mail delivered to Runa Feld", entry("messageDelivered", { person: "runa" })],
    [
      "Runa Feld intervened: take exit “ok” “call”",
      entry("intervened", { kind: "take exit", exit: "ok", step: "call" }, {}, runa),
    ],
    ["Runa Feld sent it to Teo Marchetti once more", entry("messageResent", { person: "teo" }, {}, runa)],
    ["Withdrawn: the stage was left", entry("withdrawn", { why: "the stage was left" })],
  ])("%s", (sentence, e) => {
    expect(told(e)).toBe(sentence);
    expect(markOf(e)).toBeTruthy();
    const lens = lensOf(e);
    if (lens) expect(LENSES).toContain(lens);
  });

  test("none of the engine's events is told by its bare name", () => {
    const own = [...source.matchAll(/record (\w+)\([^{]*?implements (?:Event|Sending|OfDelivery)/gs)].map(
      ([, name = ""]) => name.charAt(0).toLowerCase() + name.slice(1),
    );
    // Rooms bring the others; the list of kinds names them.
    const brought = list
      .split("\n")
      .filter((line) => line.startsWith("| ") && !line.startsWith("| kind"))
      .flatMap((line) => (line.split("|")[5] ?? "").split(","))
      .map((kind) => kind.trim())
      .filter((kind) => kind);
    const kinds = [...new Set([...own, ...brought])];
    expect(kinds.length).toBeGreaterThan(70);
    const sentences = kinds.map((kind) => {
      try {
        return [kind, told(entry(kind, {}))];
      } catch {
        // It has a case of its own, which needs what its body holds.
        return [kind, "told"];
      }
    });
    expect(sentences.filter(([kind, sentence]) => kind === sentence)).toEqual([]);
  });

  test.each([
    ["planned work", "explained by this work: it opens nothing meanwhile · major"],
    ["consequence", "follows from this: it opens nothing meanwhile · major"],
    [undefined, "major"],
  ])("a fault that is noted because of %s says why it stands here", (because, sub) => {
    const at = "2026-03-02T10:00:00Z";
    const body = { source: "boards", turn: "begins", count: 1, first: at, last: at, worst: "major", because };
    expect(story(entry("signalsHeard", body, { title: "Board 7 stands still" }), names).sub).toBe(sub);
  });

  test("rules say what turned bad, and what was at first", () => {
    const first = [{ ...rules[0], why: "4 is not 5" }, rules[1]];
    const s = story(entry("checked", { exit: "fail", held: 1, rules: 2, tries: 2 }, { first, last: rules }), names);
    expect(s.sub).toBe("turned bad: Child");
    expect(s.rows).toEqual([
      ["✓ Adult", "5 is 5 At first: 4 is not 5"],
      ["✗ Child", "3 is not 2"],
    ]);
  });

  test("who did it is named for people, machines and the clock", () => {
    const by = (actor: object) => told(entry("ticketChanged", { changes: {} }, {}, actor));
    expect(by({ is: "automation", action: "lane.close" })).toBe("the action lane.close changed the ticket");
    expect(by({ is: "clock" })).toBe("the clock changed the ticket");
    expect(by({ is: "outside", party: "mail" })).toBe("mail changed the ticket");
    expect(by({ is: "system" })).toBe("the system changed the ticket");
  });

  test("what has a short name in the record stands under the one that people know", () => {
    const done = { ...entry("callDone", { exit: "ok", tookMillis: 40 }, { outputs: { answering: 5, x: 1 } }) };
    const s = story({ ...done, labels: { answering: "How many answer" } } as Entry, names);
    expect(s.rows?.map((r) => r[0])).toEqual(["How many answer", "x"]);
  });

  test("people, groups and services are told by their names", () => {
    const directory = {
      fields: [
        { name: "assignee", label: "Assignee", type: "person" },
        { name: "group", label: "With", type: "group" },
        { name: "service", label: "Service", type: "service" },
      ],
      ciFields: [],
    };
    const s = story(
      entry("ticketChanged", {
        changes: { assignee: { after: "runa" }, group: { before: "pier" }, service: { before: "a", after: "b" } },
      }),
      { ...names, directory },
    );
    expect(s.rows).toEqual([
      ["Assignee", "Runa Feld"],
      ["With", "Pier technicians → nothing"],
      ["Service", "a → b"],
    ]);
  });
});
