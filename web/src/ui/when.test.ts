import { describe, expect, it } from "vitest";
import { understood, type WhenKind, whenWords, written } from "./when";

// A Sunday, in the zone of whoever runs the tests.
const NOW = new Date(2026, 10, 29, 10, 0);

describe("what people write as a time", () => {
  const table: [string, WhenKind, string | undefined][] = [
    ["tomorrow 22:00", "moment", "2026-11-30T22:00"],
    ["tomorrow 22", "moment", "2026-11-30T22:00"],
    ["fri 7", "moment", "2026-12-04T07:00"],
    ["Friday at 7:30", "moment", "2026-12-04T07:30"],
    ["in 2 h", "moment", "2026-11-29T12:00"],
    ["30 min", "moment", "2026-11-29T10:30"],
    ["today 14", "moment", "2026-11-29T14:00"],
    ["14:30", "moment", "2026-11-29T14:30"],
    ["2026-12-01 08:00", "moment", "2026-12-01T08:00"],
    ["2026-12-01T08:00", "moment", "2026-12-01T08:00"],
    ["1.12. 8:00", "moment", "2026-12-01T08:00"],
    ["1.12.2027 8", "moment", "2027-12-01T08:00"],
    ["1 dec 8:00", "moment", "2026-12-01T08:00"],
    ["noon", "moment", "2026-11-29T12:00"],
    // Which hour is not guessed.
    ["fri", "moment", undefined],
    ["1 dec", "moment", undefined],
    // Half of it understood is not understood.
    ["tomorrow 22:00 or so", "moment", undefined],
    ["fri 7 to 9", "moment", undefined],
    ["soon", "moment", undefined],
    ["", "moment", undefined],
    ["fri 77", "moment", undefined],
    ["fri", "day", "2026-12-04"],
    ["tomorrow", "day", "2026-11-30"],
    ["2027-01-31", "day", "2027-01-31"],
    ["31.1.", "day", "2027-01-31"],
    ["in 3 weeks", "day", "2026-12-20"],
    ["22", "time", "22:00"],
    ["7.30", "time", "07:30"],
    ["08:00", "time", "08:00"],
    ["24:00", "time", undefined],
    ["7:65", "time", undefined],
    ["early", "time", undefined],
  ];
  it.each(table)("%s (%s)", (text, kind, value) => {
    expect(understood(text, kind, NOW)).toBe(value);
  });

  it("reads what it wrote itself", () => {
    for (const [, kind, value] of table) {
      if (value) expect(understood(written(value, kind), kind, NOW)).toBe(value);
    }
  });

  it("says what was understood, with its zone", () => {
    expect(whenWords("2026-12-04T07:00", "moment")).toMatch(/^Friday,? 4 December 2026, 07:00 \(.+\)$/);
    expect(whenWords("2026-12-04", "day")).toMatch(/^Friday,? 4 December 2026$/);
    expect(whenWords("nothing", "moment")).toBe("");
  });
});
