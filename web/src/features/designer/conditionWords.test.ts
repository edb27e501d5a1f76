import { describe, expect, it } from "vitest";
import { conditionWords, fieldWords, seenWords } from "./conditionWords";

const labels = (path: string) =>
  ({ "ticket.lockNumber": "Lock number", "ci.firmware": "Firmware", "ticket.cis": "CIs touched" })[path];

describe("a condition in words", () => {
  it.each([
    ["ci.kind == 'gate' && ticket.impact <= 3", "the CI’s kind is gate and impact is at most 3"],
    ["ticket.impact == 1 && service.passengers", "impact is 1 and passengers meet the service"],
    ["!service.passengers", "passengers do not meet the service"],
    ["ticket.major", "it is marked as major"],
    ["!ticket.major", "it is not marked as major"],
    ["lower(ticket.title).contains('frozen')", "the title contains “frozen”"],
    ['ticket.title.contains("gate")', "the title contains “gate”"],
    ["ci.site in ['ALD', 'GNQ']", "the CI’s site is ALD or GNQ"],
    ["has(ticket.lockNumber)", "lock number is known"],
    ["!has(ticket.lockNumber)", "lock number is not known"],
    ["ci.firmware != '2.8'", "the CI’s firmware is not 2.8"],
    ["ticket.urgency > 2 || ticket.urgency < 1", "urgency is above 2 or urgency is below 1"],
    [
      "ticket.impact >= 2 && (ci.site == 'ALD' || ci.site == 'NSL')",
      "impact is at least 2 and (the CI’s site is ALD or the CI’s site is NSL)",
    ],
    ["is.urgent", "“urgent”"],
    ["!is.urgent", "not “urgent”"],
    ["input.ready", "input.ready is yes"],
    ["!input.ready", "input.ready is no"],
    ["size(vars.due) > 2", "size(vars.due) > 2"],
    ["", ""],
  ])("%s", (text, words) => expect(conditionWords(text, labels)).toBe(words));

  it("says what was seen", () => {
    expect(seenWords("service.passengers", true, "yes")).toBe("passengers meet the service");
    expect(seenWords("service.passengers", false, "no")).toBe("passengers do not meet the service");
    expect(seenWords("ticket.impact", 3, "3")).toBe("impact was 3");
    expect(seenWords("ticket.lockNumber", "L-1", "L-1", labels)).toBe("lock number was L-1");
    expect(seenWords("vars.open", true, "yes")).toBe("vars.open was yes");
  });

  it("keeps an abbreviation at the beginning of a label", () => {
    expect(fieldWords("ticket.cis", labels)).toBe("CIs touched");
    expect(fieldWords("wished.site")).toBe("the CI’s wished site");
    expect(fieldWords("vars.count")).toBe("vars.count");
  });
});
