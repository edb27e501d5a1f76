import { describe, expect, it } from "vitest";
import type { PartnerLine, PartnerLogLine } from "../../api/types";
import { places, pretty, standWords, summary, verdictWords } from "./words";

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
