import { describe, expect, it } from "vitest";
import type { Relay } from "../../api/types";
import { ago, fileWords } from "./relays";

describe("ago", () => {
  it.each([
    [0, "just now"],
    [29, "just now"],
    [45, "45 s ago"],
    [600, "10 min ago"],
    [7_200, "2 h ago"],
    [259_200, "3 days ago"],
  ])("%i s", (seconds, words) => expect(ago(seconds)).toBe(words));
});

describe("fileWords", () => {
  const relay = (id: string, allowed?: string) => ({ id, name: `host-${id}`, allowed }) as Relay;
  it("names those of the zone that go by another file", () => {
    const all = [relay("1", "aa"), relay("2", "bb"), relay("3", "aa"), relay("4")];
    expect(fileWords(all[0] as Relay, all)).toContain("another than that of host-2:");
    expect(fileWords(all[1] as Relay, all)).toContain("host-1, host-3:");
    expect(fileWords(all[3] as Relay, all)).toContain("not said yet");
    expect(fileWords(all[0] as Relay, [all[0] as Relay, all[2] as Relay])).toBe("Its file is aa");
  });
});
