import { describe, expect, it } from "vitest";
import { figuresWords, share, took } from "./figures";

describe("how calls went", () => {
  it.each([
    [40, "40 ms"],
    [999.6, "1000 ms"],
    [3_450, "3.5 s"],
    [35_000, "35 s"],
    [240_000, "4 min"],
  ])("says %d milliseconds as %s", (millis, words) => expect(took(millis)).toBe(words));

  it.each([
    [0, 10, "none"],
    [1, 1_000, "below 1 %"],
    [2, 100, "2 %"],
  ])("says %d of %d as %s", (part, of, words) => expect(share(part, of)).toBe(words));

  it("is one line, and says nothing of what did not happen", () => {
    expect(figuresWords(undefined)).toBe("not called in 30 days");
    expect(figuresWords({ calls: 214, failed: 4, unsure: 0, p50: 40, p95: 4_000 })).toBe(
      "214 calls, 2 % failed, usually 40 ms, p95 4 s",
    );
    expect(figuresWords({ calls: 1, failed: 0, unsure: 1 })).toBe("1 call, none failed, 100 % unsure");
  });
});
