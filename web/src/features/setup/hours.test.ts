import { describe, expect, it } from "vitest";
import { hoursWords, readHours } from "./hours";

describe("hours of a day", () => {
  it.each([
    ["", []],
    ["08:00-17:00", [{ from: "08:00", to: "17:00" }]],
    [
      "8:00–12:00, 13:00 – 17:30",
      [
        { from: "08:00", to: "12:00" },
        { from: "13:00", to: "17:30" },
      ],
    ],
    ["12:00-24:00", [{ from: "12:00", to: "00:00" }]],
  ])("%s is read", (text, hours) => expect(readHours(text)).toEqual(hours));

  it.each(["eight to five", "08:00", "08:00-25:00", "08:61-09:00", "24:30-08:00"])("%s is not understood", (text) =>
    expect(readHours(text)).toBeUndefined(),
  );

  it("is written as it is read", () => {
    const text = "08:00–12:00, 13:00–24:00";
    expect(hoursWords(readHours(text) ?? [])).toBe(text);
  });
});
