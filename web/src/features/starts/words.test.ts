import { expect, it } from "vitest";
import type { ScheduleTurn } from "../../api/types";
import { turnWords, valuesWords } from "./words";

const at = "2026-11-29T04:15:00.000Z";
const turn = (more: Partial<ScheduleTurn>): ScheduleTurn => ({
  planned: at,
  last: at,
  count: 1,
  verdict: "started",
  ...more,
});

it.each([
  [turn({ state: "finished" }), "finished", "well"],
  [turn({ state: "failed" }), "failed", "late"],
  [turn({ state: "closed" }), "started, now closed", "well"],
  [turn({ state: "under way", note: "nothing ran at its time" }), "under way, late: nothing ran at its time", "well"],
  [turn({ verdict: "missed", count: 5 }), "5 times missed: nothing ran then", "soon"],
  [turn({ verdict: "skipped" }), "skipped: the one before was under way", "plain"],
  [turn({ verdict: "refused", note: "There is no CI 'x'." }), "could not start: There is no CI 'x'.", "late"],
])("says what became of a time", (given, words, tone) => {
  expect(turnWords(given)).toEqual({ words, tone });
});

it.each([
  ['{"minutes":2}', {}, "minutes 2"],
  ['{"minutes":2}', { minutes: { least: 2, most: 2 } }, "minutes 2"],
  ['{"minutes":2,"host":"a"}', { minutes: { least: 0.5, most: 31 } }, "minutes 2 (0.5 to 31), host a"],
  ['{"kiosks":[{}],"minutes":2}', { minutes: { least: 2, most: 3 } }, "minutes 2 (2 to 3)"],
])("says between what a number lay, where it was not always the same", (values, extremes, words) => {
  expect(valuesWords(values, extremes as Parameters<typeof valuesWords>[1])).toBe(words);
});
