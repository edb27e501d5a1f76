import { expect, it } from "vitest";
import type { LiveTrigger } from "../../api/types";
import { figuresWords } from "./figuresWords";

const live = (id: string) => ({ name: `W ${id}`, trigger: { id } }) as LiveTrigger;
const all = [live("a"), live("b")];
const of = (looked: number, held: number, ...gaveWay: [string, number][]) => [
  { trigger: "b", looked, held, gaveWay: gaveWay.map(([to, times]) => ({ to, times })) },
];

it.each([
  ["not looked at", undefined, []],
  ["looked at once, held never", undefined, of(1, 0)],
  ["looked at 4 times, held once", undefined, of(4, 1)],
  ["looked at 20 times, held 3 times", "Gave way 12 times to “W a”", of(20, 3, ["a", 12])],
  ["looked at 3 times, held never", "Gave way once to “W a”, once to “one that is gone”", of(3, 0, ["a", 1], ["z", 1])],
])("says %j and %j", (held, taken, figures) => {
  expect(figuresWords(live("b"), all, figures)).toEqual({ held, ...(taken ? { taken } : {}) });
});
