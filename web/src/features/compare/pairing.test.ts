import { expect, test } from "vitest";
import type { ComparisonSide } from "../../api/types";
import { likelyBefore, likelyPair, whereOf } from "./pairing";

const side = (seq: number, ...names: string[]): ComparisonSide => ({
  ref: `C-1:${seq}`,
  seq,
  name: `step ${seq}`,
  names,
  labels: {},
});

const before = side(4, "adult", "child");
const lock = side(6, "lock");
const after = side(9, "adult", "child");
const later = side(12, "adult", "child", "senior");

test("one is compared with the earliest that says most of the same", () => {
  expect(likelyBefore([before, lock, after, later], later)).toBe(before);
  expect(likelyBefore([before, lock, after], after)).toBe(before);
});

test("what came later, or says something else, is not before it", () => {
  expect(likelyBefore([lock, after, later], lock)).toBeUndefined();
  expect(likelyBefore([lock, after, later], after)).toBeUndefined();
});

test("what says the same things goes before what says more", () => {
  expect(likelyPair([before, after, later])).toEqual({ before, after });
  expect(likelyPair([before, side(5, "adult", "child"), after])).toEqual({ before, after });
});

test("what a step brought twice gives way to two steps, however much alike", () => {
  const again = { ...side(14, "version"), name: "install" };
  const first = { ...side(7, "version"), name: "install" };
  expect(likelyPair([before, first, later, again])).toEqual({ before, after: later });
  expect(likelyPair([first, again])).toEqual({ before: first, after: again });
});

test("a ticket opens with its last two that go together", () => {
  expect(likelyPair([before, after, lock])).toEqual({ before, after });
  expect(likelyPair([lock])).toEqual({ after: lock });
  expect(likelyPair([])).toEqual({ after: undefined });
});

test("what a side is taken from stands in its name", () => {
  expect(whereOf("C-1018:57")).toBe("C-1018");
  expect(whereOf("ci:ALD-GW1")).toBe("ALD-GW1");
  expect(whereOf(undefined)).toBeUndefined();
});
