import { describe, expect, it } from "vitest";
import type { Field } from "../../api/types";
import { type Kept, keptValue, readValue, turned, type Value, valueSaid } from "./values";

type Type = Field["type"];

describe("a value as a step keeps it", () => {
  const table: [Kept, Type, Value][] = [
    [{ text: "closed" }, "choice", { from: "here", said: "closed" }],
    [{ value: "'closed'" }, "choice", { from: "here", said: "closed" }],
    [{ value: '"Ada\'s \\"lamp\\""' }, "text", { from: "here", said: 'Ada\'s "lamp"' }],
    [{ value: "" }, "text", { from: "here", said: "" }],
    [{ value: "2" }, "whole number", { from: "here", said: "2" }],
    [{ value: "-0.5" }, "number", { from: "here", said: "-0.5" }],
    [{ value: "true" }, "yes or no", { from: "here", said: "true" }],
    [{ value: "steps.closeIt.lock" }, "text", { from: "known", path: "steps.closeIt.lock" }],
    [{ value: "ticket.cause ?? 'unknown'" }, "text", { from: "known", path: "ticket.cause", otherwise: "unknown" }],
    [{ value: "input.n ?? 3" }, "whole number", { from: "known", path: "input.n", otherwise: "3" }],
    [{ text: "Lock {{ steps.closeIt.lock }}" }, "text", { from: "words", text: "Lock {{ steps.closeIt.lock }}" }],
    // What a type does not say so is left as it was written.
    [{ value: "'2'" }, "whole number", { from: "expression", code: "'2'" }],
    [{ value: "2" }, "text", { from: "expression", code: "2" }],
    [{ value: "1 + 1" }, "whole number", { from: "expression", code: "1 + 1" }],
    [{ value: "'a' + 'b'" }, "text", { from: "expression", code: "'a' + 'b'" }],
    [{ value: "ticket.cause ?? run.reason" }, "text", { from: "expression", code: "ticket.cause ?? run.reason" }],
    [{ value: "'2026-03-02'" }, "time", { from: "expression", code: "'2026-03-02'" }],
  ];
  it.each(table)("%o as %s", (kept, type, value) => {
    expect(readValue(kept, type)).toEqual(value);
  });

  it("is the same after it was read and kept again", () => {
    for (const [kept, type] of table) {
      const value = readValue(kept, type);
      const again = keptValue(value, type, kept.text !== undefined);
      expect(readValue(again, type)).toEqual(value);
    }
  });

  it("never becomes a text with values by what somebody typed", () => {
    expect(keptValue({ from: "here", said: "{{ secret }}" }, "text", true)).toEqual({ value: '"{{ secret }}"' });
    expect(keptValue({ from: "here", said: 'say "no"' }, "text", false)).toEqual({ value: '"say \\"no\\""' });
  });
});

describe("saying a value another way", () => {
  it("takes over what was said where that is possible", () => {
    const here: Value = { from: "here", said: "closed" };
    expect(turned(here, "expression", "text")).toEqual({ from: "expression", code: '"closed"' });
    expect(turned(here, "words", "text")).toEqual({ from: "words", text: "closed" });
    expect(turned(here, "known", "text")).toEqual({ from: "known", path: "", otherwise: "closed" });
    const known: Value = { from: "known", path: "ticket.ci" };
    expect(turned(known, "words", "text")).toEqual({ from: "words", text: "{{ ticket.ci }}" });
    expect(turned(known, "expression", "CI")).toEqual({ from: "expression", code: "ticket.ci" });
    expect(turned(known, "here", "CI")).toEqual({ from: "here", said: "" });
  });

  it("keeps nothing half: what is to be chosen yet is empty", () => {
    expect(keptValue({ from: "known", path: "", otherwise: "closed" }, "text", true)).toEqual({ value: "" });
  });
});

describe("a value in words", () => {
  const words = (path: string) => (path === "steps.closeIt.lock" ? "Close the lane: lock number" : path);
  it.each<[Kept, string]>([
    [{ text: "closed" }, "“closed”"],
    [{ value: "'closed'" }, "“closed”"],
    [{ value: "true" }, "yes"],
    [{ value: "3" }, "3"],
    [{ value: "" }, "nothing yet"],
    [{ value: "steps.closeIt.lock" }, "Close the lane: lock number"],
    [{ value: "steps.closeIt.lock ?? 'none'" }, "Close the lane: lock number, else “none”"],
    [{ text: "closed, {{ steps.closeIt.lock }}" }, "“closed, ‹Close the lane: lock number›”"],
    [{ text: "{{ steps.closeIt.lock }}" }, "Close the lane: lock number"],
    [{ text: "closed, {{ now() }}" }, "“closed, ‹now()›”"],
    [{ value: "size(ticket.rows) > 2" }, "size(ticket.rows) > 2"],
  ])("%o", (kept, said) => {
    expect(valueSaid(kept, words)).toBe(said);
  });
});
