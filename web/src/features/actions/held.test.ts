import { expect, it } from "vitest";
import { heldWords } from "./held";

const names = { person: (id?: string) => (id === "teo" ? "Teo Marchetti" : "") };
const NOW = Date.parse("2026-03-02T10:00:00Z");
const since = "2026-03-02T09:58:00Z";

it("says when the next goes out to see, and that it is about to", () => {
  const later = heldWords("Lanes", { since, until: "2026-03-02T10:00:30Z" }, NOW, names);
  expect(later).toMatch(/^Calls over Lanes wait since .*: too many had no answer\. One goes out to see at /);
  const soon = heldWords("Lanes", { since, until: "2026-03-02T09:59:30Z" }, NOW, names);
  expect(soon).toContain("The next one goes out to see.");
});

it("names whoever holds them back, and why", () => {
  const byHand = { held: true, by: "teo", at: since, why: "They move." };
  expect(heldWords("Lanes", { since, byHand }, NOW, names)).toContain("Teo Marchetti holds them back. They move.");
});
