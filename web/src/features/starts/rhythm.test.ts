import { expect, it } from "vitest";
import type { Rhythm } from "../../api/types";
import { readRhythm, rhythmWords, writeRhythm } from "./rhythm";

const of = (rule?: string, more: Partial<Rhythm> = {}): Rhythm => ({
  from: "2026-11-30T04:15",
  zone: "Europe/Oslo",
  ...(rule ? { rule } : {}),
  ...more,
});
const words = (r: Rhythm) => rhythmWords(r, (key) => key);

it.each([
  [undefined, "once, on 2026-11-30 at 04:15 (Europe/Oslo)"],
  ["FREQ=DAILY", "every day at 04:15 (Europe/Oslo)"],
  ["FREQ=DAILY;INTERVAL=3", "every 3 days at 04:15 (Europe/Oslo)"],
  ["FREQ=WEEKLY;BYDAY=MO,WE,FR", "every Monday, Wednesday and Friday at 04:15 (Europe/Oslo)"],
  ["FREQ=WEEKLY;INTERVAL=2;BYDAY=SU", "every 2 weeks on Sunday at 04:15 (Europe/Oslo)"],
  ["FREQ=MONTHLY", "every month on day 30 at 04:15 (Europe/Oslo)"],
  ["FREQ=MONTHLY;BYMONTHDAY=-1", "every month on its last day at 04:15 (Europe/Oslo)"],
  ["FREQ=HOURLY;INTERVAL=6", "every 6 hours from 04:15 (Europe/Oslo)"],
  ["FREQ=MONTHLY;BYDAY=2TU", "by the rule FREQ=MONTHLY;BYDAY=2TU (Europe/Oslo)"],
])("%s is said in words, and stays what it is in the form", (rule, said) => {
  const rhythm = of(rule);
  expect(words(rhythm)).toBe(said);
  expect(writeRhythm(readRhythm(rhythm))).toEqual(rhythm);
});

it("keeps the last day and the calendar", () => {
  const rhythm = of("FREQ=DAILY", { until: "2027-01-31T23:59", openDaysOf: "office" });
  expect(writeRhythm(readRhythm(rhythm))).toEqual(rhythm);
  expect(words(rhythm)).toBe("every day at 04:15 (Europe/Oslo), on days when office opens, until 2027-01-31");
});

it("writes days in the order of the week, whatever the order in which they were chosen", () => {
  expect(writeRhythm({ ...readRhythm(of("FREQ=WEEKLY")), days: ["FR", "MO"] }).rule).toBe("FREQ=WEEKLY;BYDAY=MO,FR");
});
