import { describe, expect, it } from "vitest";
import { HELPERS, helped } from "./helpers";

const of = (key: string, values: Record<string, string>) => {
  const helper = HELPERS.find((h) => h.key === key);
  if (!helper) throw new Error(key);
  return helped(helper, values);
};

describe("data helpers", () => {
  it("write the expression of their form", () => {
    expect(of("count", { list: "steps.list.certificates", column: "days", sign: "<", limit: "21" })).toBe(
      "size(steps.list.certificates.filter(row, row.days < 21))",
    );
    expect(of("split", { text: "ticket.title", at: '"', part: "2" })).toBe('trim(cell(split(ticket.title, "\\""), 2))');
    expect(of("most", { list: "steps.list.files", named: "size", count: "2" })).toBe(
      'first(reversed(sorted(steps.list.files, "size")), 2)',
    );
    expect(of("share", { a: "steps.x.succeeded", b: "steps.x.count" })).toBe("share(steps.x.succeeded, steps.x.count)");
  });

  it("count from one, as people do, and never below it", () => {
    expect(of("line", { text: "ticket.description", part: "1" })).toContain(", 1)");
    expect(of("line", { text: "ticket.description", part: "0" })).toContain(", 1)");
  });

  it("have a start for every blank, so that each is an expression at once", () => {
    for (const helper of HELPERS) {
      expect(helped(helper, {})).not.toContain("undefined");
      expect(helper.blanks.every((b) => b.start !== "")).toBe(true);
    }
  });
});
