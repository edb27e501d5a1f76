import { describe, expect, it } from "vitest";
import { axis, dayBegins, inZone, placed } from "./axis";

const at = (iso: string) => Date.parse(iso);
const HOUR = 3_600_000;

describe("the axis of on call", () => {
  it.each([
    ["Europe/Oslo", "2026-11-29T05:30:00Z", "2026-11-28T23:00:00Z"],
    ["Europe/Oslo", "2026-11-28T23:30:00Z", "2026-11-28T23:00:00Z"],
    // The day on which the clock goes forward, and the one on which it goes back.
    ["Europe/Oslo", "2026-03-29T12:00:00Z", "2026-03-28T23:00:00Z"],
    ["Europe/Oslo", "2026-10-25T12:00:00Z", "2026-10-24T22:00:00Z"],
    ["America/St_Johns", "2026-07-01T02:00:00Z", "2026-06-30T02:30:00Z"],
    ["Pacific/Kiritimati", "2026-07-01T12:00:00Z", "2026-07-01T10:00:00Z"],
    ["UTC", "2026-07-01T00:00:00Z", "2026-07-01T00:00:00Z"],
  ])("the day of a moment begins at midnight of the zone: %s %s", (zone, moment, begins) => {
    expect(new Date(dayBegins(zone, at(moment))).toISOString()).toBe(new Date(at(begins)).toISOString());
  });

  it("has days as long as they are where the clock is changed", () => {
    const a = axis("Europe/Oslo", at("2026-10-24T10:00:00Z"), 3);
    const ends = [...a.days.slice(1).map((d) => d.at), a.until];
    expect(a.days.map((d, i) => ((ends[i] ?? 0) - d.at) / HOUR)).toEqual([24, 25, 24]);
    expect(a.days.map((d) => [d.name, d.weekend])).toEqual([
      ["Sat 24", true],
      ["Sun 25", true],
      ["Mon 26", false],
    ]);
  });

  it("clips turns to what is shown", () => {
    const a = axis("UTC", at("2026-07-01T12:00:00Z"), 2);
    expect(placed(a, at("2026-06-30T12:00:00Z"), at("2026-07-01T12:00:00Z"))).toEqual({ left: 0, width: 25 });
    expect(placed(a, at("2026-07-02T12:00:00Z"), at("2026-08-01T00:00:00Z"))).toEqual({ left: 75, width: 25 });
    expect(placed(a, at("2026-08-01T00:00:00Z"), at("2026-08-02T00:00:00Z"))).toBeUndefined();
  });

  it("says a moment in the zone asked for", () => {
    expect(inZone("Europe/Oslo", "2026-11-30T06:00:00Z")).toBe("Mon 30 Nov 07:00");
    expect(inZone("Asia/Kathmandu", "2026-11-30T23:30:00Z")).toBe("Tue 1 Dec 05:15");
  });
});
