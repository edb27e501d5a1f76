import { describe, expect, it } from "vitest";
import type { Row } from "./filter";
import { withKept } from "./kept";

const line = (id: string, group: string) => ({
  group,
  row: { id, ticket: "I-1", kind: "task", title: id, sub: "", mine: true } satisfies Row,
});
const ids = (lines: { row: Row }[]) => lines.map((l) => l.row.id);

describe("the row before the person", () => {
  const lines = [line("a", "Late"), line("b", "Today"), line("c", "Today"), line("d", "Later")];

  it("stays where it stood when somebody else has settled it", () => {
    const without = lines.filter((l) => l.row.id !== "c");
    expect(ids(withKept(without, { ...line("c", "Today"), place: 1 }))).toEqual(["a", "b", "c", "d"]);
    const first = lines.filter((l) => l.row.id !== "b");
    expect(ids(withKept(first, { ...line("b", "Today"), place: 0 }))).toEqual(["a", "b", "c", "d"]);
  });

  it("stays when its group has gone with it", () => {
    const rest = lines.slice(1);
    expect(ids(withKept(rest, { ...line("a", "Late"), place: 0 }))).toContain("a");
  });

  it("is not doubled while it is there", () => {
    expect(withKept(lines, { ...line("b", "Today"), place: 0 })).toEqual(lines);
  });
});
