import { describe, expect, it } from "vitest";
import type { PartnerCount, PartnerLine, PartnerLogLine, PartnerTakeover } from "../../api/types";
import { countWords, places, pretty, standWords, summary, takeoverWords, verdictWords } from "./words";

const line = (more: Partial<PartnerLine>): PartnerLine =>
  ({ key: "s", name: "S", on: true, every: "15 s", followed: 0, ...more }) as PartnerLine;

describe("how a partner's desk stands", () => {
  it.each([
    [{ on: false, failingSince: "t" }, "switched off", false],
    [{}, "not looked at yet", false],
    [{ lookedAt: "12:00" }, "looked at 12:00", false],
    [{ lookedAt: "12:00", failingSince: "11:50" }, "not reached since 11:50", true],
  ])("%o", (more, words, late) => {
    expect(standWords(line(more as Partial<PartnerLine>), (m) => m)).toEqual({ words, late });
  });
});

describe("what came or went", () => {
  it.each([
    ["taken", "taken over", "plain"],
    ["asked", "put to a person", "soon"],
    ["again", "tried again", "soon"],
    ["refused", "refused", "late"],
    ["given up", "given up", "late"],
    ["something new", "something new", "plain"],
  ])("%s", (verdict, words, tone) => {
    expect(verdictWords({ verdict } as PartnerLogLine)).toEqual({ words, tone });
  });

  it.each([
    [{ verdict: "taken", way: "in", raw: "{}", meant: '{"impact":3}' }, "impact: 3"],
    [{ verdict: "sent", way: "out", raw: '{"id":"F-1","stage":"shut"}' }, "stage: shut"],
    [{ verdict: "said", way: "out", raw: '{"id":"F-1","text":"Hello","by":"Ada"}' }, "Hello"],
    [{ verdict: "said", way: "in", raw: '{"id":"3","text":"Since when?"}' }, "Since when?"],
    [{ verdict: "told", way: "in", raw: '{"no":"F-1"}' }, ""],
    [{ verdict: "sent", way: "out", raw: "half {" }, ""],
  ])("is told in one line: %o", (line, words) => expect(summary(line as PartnerLogLine)).toBe(words));

  it("is shown as it came where it is no JSON", () => {
    expect(pretty('{"a":1}')).toBe('{\n  "a": 1\n}');
    expect(pretty("half {")).toBe("half {");
  });
});

describe("places in one of their tickets", () => {
  it("are JSON Pointers to what has a value, with lists as wholes", () => {
    expect(
      places('{"no":"F-1","fault":{"a/b":"x","m~n":2},"words":[{"nr":1}],"outcome":"","gone":null,"ok":false}'),
    ).toEqual([
      { at: "/no", value: "F-1" },
      { at: "/fault/a~1b", value: "x" },
      { at: "/fault/m~0n", value: "2" },
      { at: "/words", value: "a list of 1" },
      { at: "/ok", value: "false" },
    ]);
    expect(places("no json")).toEqual([]);
  });
});

describe("what was open before", () => {
  const count = (more: object) =>
    countWords({ open: 0, unclear: 0, ended: 0, known: 0, unknown: [], first: [], ...more } as PartnerCount).join(" ");

  it.each([
    [{}, "Nothing is open there that has not come already."],
    [{ open: 1 }, "1 is open there and would be taken over."],
    [
      { open: 4, unclear: 1, ended: 2, known: 3 },
      "4 are open there and would be taken over. Of one of these it cannot be told: it counts as open. 2 have ended there and would stay there. 3 have come already.",
    ],
    [
      { open: 9, unclear: 2 },
      "9 are open there and would be taken over. Of 2 of these it cannot be told: they count as open.",
    ],
  ])("counts %o", (more, words) => expect(count(more)).toBe(words));

  const work = (more: object) =>
    takeoverWords({ taken: 0, refused: 0, ended: 0, left: 0, ...more } as PartnerTakeover, "Monday");

  it.each([
    [{ state: "reading" }, "Reading what is open there since Monday. Nothing is taken over until all of it was read."],
    [
      { state: "taking", taken: 12, left: 28 },
      "Taking over what is open there since Monday: 12 taken over, 28 to go, five a second.",
    ],
    [
      { state: "done", taken: 2, ended: 1, refused: 1 },
      "Taken over: 2 tickets that were open there since Monday. 1 had ended there, 1 could not be taken over; each says why.",
    ],
    [{ state: "done" }, "Nothing was open there since Monday that had not come already."],
    [
      { state: "stopped", taken: 1 },
      "Stopped after 1 ticket was taken over. What was left comes when it changes there.",
    ],
    [{ state: "failed", problem: "Too many." }, "Nothing was taken over: Too many."],
  ])("says how far it has come: %o", (more, words) => expect(work(more)).toBe(words));
});
