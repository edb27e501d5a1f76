import { describe, expect, it, test } from "vitest";
import type { Aside, Foreseen, Matter, SignalLine } from "../../api/types";
import {
  asideWords,
  becameWords,
  foreseenWords,
  needsSomebody,
  placed,
  sinceWords,
  standsWords,
  steadyOrder,
  toneOf,
} from "./words";

const matter = (more: Partial<Matter> = {}): Matter => ({
  key: "ald-07/stands still",
  title: "Board 7 stands still",
  inFault: ["Board monitor"],
  worst: "major",
  since: "2026-03-02T09:50:00Z",
  lastAt: "2026-03-02T09:55:00Z",
  count: 3,
  recoveryTold: false,
  ...more,
});

describe("how a matter stands", () => {
  test.each<[Partial<Matter>, string, boolean, string]>([
    [{}, "major, says Board monitor", true, "late"],
    [{ ticket: "I-7" }, "major, says Board monitor", false, "soon"],
    [{ ticket: "I-7", inFault: ["A", "B"] }, "major, says A and B", false, "soon"],
    [{ inFault: [], worst: undefined }, "well again", false, "plain"],
    [{ aside: { ticket: "C-7", because: "planned work" } }, "major, says Board monitor", false, "soon"],
  ])("%o", (more, words, needs, tone) => {
    expect(standsWords(matter(more))).toBe(words);
    expect(needsSomebody(matter(more))).toBe(needs);
    expect(toneOf(matter(more))).toBe(tone);
  });

  it("needs somebody while it turns to and fro, ticket or not", () => {
    const m = matter({ ticket: "I-7", unsteadyUntil: "2026-03-02T10:30:00Z" });
    expect(needsSomebody(m)).toBe(true);
    expect(standsWords(m)).toContain("turns to and fro");
  });
});

test.each<[Partial<SignalLine>, string]>([
  [{ state: "received" }, "not looked at yet"],
  [{ state: "opened", ticket: "I-7" }, "opened I-7"],
  [{ state: "joined", ticket: "I-7" }, "joined I-7"],
  [{ state: "noted", ticket: "C-7" }, "noted on C-7"],
  [{ state: "taken" }, "told a step that waited for it"],
  [{ state: "not understood", problem: "'ASLEEP' is unknown." }, "not understood: 'ASLEEP' is unknown."],
  [{ state: "kept" }, "kept"],
])("%o", (line, words) => expect(becameWords(line as SignalLine)).toBe(words));

test.each<[Aside, string | RegExp]>([
  [{ ticket: "C-7", because: "planned work" }, "explains it: planned work"],
  [{ ticket: "I-7", because: "consequence" }, "explains it: it follows from that"],
  [
    { ticket: "C-7", because: "planned work", over: "2026-03-02T10:00:00Z" },
    /^explained it until \d\d:00; it is judged by itself ten minutes after$/,
  ],
])("%o", (aside, words) => expect(asideWords(aside)).toMatch(words));

const LOOKS = [
  { started: true, name: "Frozen departure board" },
  { started: false, name: "Other" },
];

test.each<[Partial<Foreseen>, string]>([
  [{ does: "taken", ticket: "I-7" }, "A step of I-7 waits for it and would take it."],
  [{ does: "joined", ticket: "I-7" }, "It would join I-7."],
  [
    { does: "noted", ticket: "C-7", because: "planned work" },
    "It would be noted on C-7, which explains it, and open nothing.",
  ],
  [{ does: "opened", kind: "incident" }, "It would open an incident."],
  [
    { does: "opened", kind: "request", looks: LOOKS as Foreseen["looks"] },
    "It would open a request and start Frozen departure board.",
  ],
  [{ does: "kept", why: "nothing takes it up" }, "It would be kept: nothing takes it up."],
])("%o", (f, words) => expect(foreseenWords({ looks: [], ...f } as unknown as Foreseen)).toBe(words));

test("what is shown keeps its place, and what is new stands apart", () => {
  const [a, b, c] = ["a", "b", "c"].map((key) => matter({ key }));
  if (!a || !b || !c) throw new Error("three");
  const steady = steadyOrder([c, b, a], placed([a, b]));
  expect(steady.live.map((m) => m.key)).toEqual(["a", "b"]);
  expect(steady.fresh.map((m) => m.key)).toEqual(["c"]);
  expect(steadyOrder([a], placed([b, a])).live).toEqual([a]);
});

test("what something else explains stands apart, after what somebody may have to do with", () => {
  const explained = matter({ key: "b", aside: { ticket: "I-7", because: "consequence" } });
  const cause = matter({ key: "a", ticket: "I-7" });
  const order = steadyOrder([explained, cause], placed([explained, cause]));
  expect(order.live).toEqual([cause]);
  expect(order.explained).toEqual([explained]);
  const alone = { ...explained, aside: undefined };
  expect(steadyOrder([alone, cause], placed([explained, cause])).turned).toEqual([alone]);
});

test("what turns meanwhile stays where it stands, and is counted", () => {
  const [a, b] = ["a", "b"].map((key) => matter({ key }));
  if (!a || !b) throw new Error("two");
  const well = { ...b, inFault: [], worst: undefined };
  const turned = steadyOrder([a, well], placed([a, b]));
  expect(turned.live).toEqual([a, well]);
  expect(turned.turned).toEqual([well]);
  const worse = steadyOrder([a, b], placed([a, well]));
  expect(worse.over).toEqual([b]);
  expect(worse.turned).toEqual([b]);
});

test.each([
  [1, 0, "One more matter since you look"],
  [31, 0, "31 more matters since you look"],
  [0, 1, "One matter has turned since you look"],
  [0, 2, "2 matters have turned since you look"],
  [3, 1, "3 more matters since you look, one has turned"],
])("%i new and %i turned", (fresh, turned, words) => {
  expect(sinceWords(fresh, turned)).toBe(words);
});
