import { describe, expect, it } from "vitest";
import { type Group, plainValue, quoteValue, readCondition, writeCondition } from "./condition";

const round = (text: string) => writeCondition(readCondition(text));

describe("conditions as rows", () => {
  it.each([
    "ticket.impact <= 2",
    'ci.kind == "gate" && ticket.impact <= 2',
    'ticket.impact == 1 || (service.passengers && ticket.site == "ALD")',
    "(ticket.impact == 1 || ticket.impact == 2) && !service.passengers",
    "has(ticket.ci) && !has(ticket.group)",
    "ticket.urgency in [1, 2]",
    'ticket.title.contains("a && b")',
    "steps.look.outcome == vars.wanted",
    'ticket.title == "a (b" && ticket.impact > 1',
  ])("reads and writes %s without a change", (text) => {
    expect(round(text)).toBe(text);
    const parts = readCondition(text).parts;
    expect(JSON.stringify(parts)).not.toContain('"raw"');
  });

  it.each(["size(lines(ticket.log)) > 3", "ticket.a + 1 == 2", "x ? y : z", "ticket.list.all(x, x > 1)"])(
    "keeps what rows cannot say: %s",
    (text) => {
      expect(readCondition(text).parts).toEqual([{ raw: text }]);
      expect(round(text)).toBe(text);
    },
  );

  it("keeps a raw alternative together beside an and", () => {
    const group: Group = {
      join: "all",
      parts: [{ raw: "f(x) || g(x)" }, { field: "ticket.impact", operator: "is", value: "1" }],
    };
    expect(writeCondition(group)).toBe("(f(x) || g(x)) && ticket.impact == 1");
  });

  it("nests groups with brackets only where they are needed", () => {
    const group = readCondition("a.b && (c.d || e.f) && g.h");
    expect(group.join).toBe("all");
    expect(group.parts).toHaveLength(3);
    expect(group.parts[1]).toEqual({
      join: "any",
      parts: [
        { field: "c.d", operator: "holds", value: "" },
        { field: "e.f", operator: "holds", value: "" },
      ],
    });
  });

  it("quotes values by the type of the field", () => {
    expect(quoteValue("2", "whole number", "is")).toBe("2");
    expect(quoteValue("2", "text", "is")).toBe('"2"');
    expect(quoteValue('say "x"', "text", "is")).toBe('"say \\"x\\""');
    expect(quoteValue("ALD, GNQ", "text", "is one of")).toBe('"ALD", "GNQ"');
    expect(plainValue('"ALD", "GNQ"')).toBe("ALD, GNQ");
    expect(plainValue("'gate'")).toBe("gate");
  });
});
