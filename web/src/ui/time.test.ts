import { expect, test } from "vitest";
import { dayFar, left, span } from "./time";

test.each([
  [41_000, "41 s"],
  [12 * 60_000, "12 min"],
  [200 * 60_000, "3 h 20 min"],
  [49 * 3_600_000, "2 days"],
  [-18 * 60_000, "18 min"],
])("%d ms are said as %s", (ms, words) => expect(span(ms)).toBe(words));

test("what has passed is said with a minus", () => {
  expect(left("2026-03-02T10:00:00Z", Date.parse("2026-03-02T10:18:00Z"))).toBe("−18 min");
});

test("a day of another year is said with it", () => {
  const now = Date.parse("2026-12-20T10:00:00Z");
  expect(dayFar("2026-12-24T10:00:00Z", now)).toBe("Thu 24 Dec");
  expect(dayFar("2027-01-04T10:00:00Z", now)).toBe("Mon 4 Jan 2027");
});
