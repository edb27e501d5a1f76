import { describe, expect, it } from "vitest";
import { expressionWords } from "./expressionWords";

const words = (path: string) =>
  ({
    "ticket.lockNumber": "Lock number",
    "steps.list.certificates": "the certificates (List them)",
    "steps.list.kiosks": "the kiosks (List them)",
    "steps.list.inForce": "the version in force (List them)",
    "steps.each.items": "the items (Renew each)",
  })[path] ?? path;

describe("an expression in words", () => {
  it.each<[string, string | undefined]>([
    ["ticket.lockNumber", "Lock number"],
    ["ticket.lockNumber ?? 'none'", "Lock number, else “none”"],
    ["ticket.lockNumber ?? ''", "Lock number"],
    ["', lock ' + ticket.lockNumber ?? ' by hand'", "“, lock ‹Lock number›”, else “ by hand”"],
    ["'a + b' + ticket.lockNumber", "“a + b‹Lock number›”"],
    ["steps.list.kiosks.filter(k, k.version != 3)", "those of the kiosks (List them) for which version is not 3"],
    [
      "steps.each.items.filter(i, i.outcome == 'failed').map(i, i.item.gate) ?? 'the list could not be read'",
      "item gate of each of those of the items (Renew each) for which outcome is failed, else “the list could not be read”",
    ],
    ["size(steps.list.kiosks)", "how many there are of the kiosks (List them)"],
    ["size(steps.list.kiosks) > 2", undefined],
    ["1 + 2", undefined],
    ["now()", undefined],
    ["steps.list.kiosks.filter(k, ", undefined],
    ["'never closed + ticket.lockNumber", undefined],
    ["((", undefined],
    ["", ""],
  ])("%s", (code, said) => {
    expect(expressionWords(code, words) ?? undefined).toBe(said === "" ? undefined : said);
  });
});
