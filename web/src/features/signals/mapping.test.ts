import { describe, expect, it, test } from "vitest";
import type { Mapping } from "../../api/types";
import { leaves, missing, nameFor, taking, typeFor } from "./mapping";

const RAW = { id: "7", data: { unit: "10.30.0.27", picture_age_s: 412, "a/b~c": "", deep: [{ x: 1 }, { x: 2 }] } };

describe("what stands in a payload", () => {
  it("is named by the place where it stands, and what holds others is no value", () => {
    expect(leaves(RAW).map((l) => [l.pointer, l.value])).toEqual([
      ["/id", "7"],
      ["/data", undefined],
      ["/data/unit", "10.30.0.27"],
      ["/data/picture_age_s", 412],
      ["/data/a~1b~0c", ""],
      ["/data/deep", undefined],
      ["/data/deep/0", undefined],
      ["/data/deep/0/x", 1],
      ["/data/deep/1", undefined],
      ["/data/deep/1/x", 2],
    ]);
  });
});

test.each([
  ["picture_age_s", [], "pictureAgeS"],
  ["Unit", [], "unit"],
  ["7days", [], "value7days"],
  ["---", [], "value"],
  // Said of every signal, so an own value bears another name.
  ["severity", [], "severity2"],
  ["unit", ["unit", "unit2"], "unit3"],
])("%s is called something that conditions can read", (key, taken, name) => expect(nameFor(key, taken)).toBe(name));

test.each([
  [412, "whole number"],
  [1.5, "number"],
  [true, "yes or no"],
  ["2026-03-02T10:00:00Z", "time"],
  ["FROZEN", "text"],
  [null, "text"],
])("%s is of a type", (value, type) => expect(typeFor(value)).toBe(type));

describe("a click on a value", () => {
  const mapping: Mapping = { rows: [{ to: "ci", by: "address", from: { is: "at", pointer: "/x" } }] };
  const leaf = { pointer: "/data/unit", name: "unit", value: "10.30.0.27", depth: 2 };

  it("is where the row that is edited takes it from", () => {
    const [next, row] = taking(mapping, 0, leaf);
    expect(row).toBe(0);
    expect(next.rows[0]).toEqual({ to: "ci", by: "address", from: { is: "at", pointer: "/data/unit" } });
  });

  it("makes a value of one's own, once", () => {
    const [next, row] = taking(mapping, undefined, leaf);
    expect(row).toBe(1);
    expect(next.rows[1]).toEqual({
      to: "value",
      name: "unit",
      type: "text",
      from: { is: "at", pointer: "/data/unit" },
    });
    expect(taking(next, undefined, leaf)).toEqual([next, 1]);
  });
});

test("what is said already is not offered again", () => {
  const said: Mapping = { rows: [{ to: "ci", from: { is: "at", pointer: "/x" } }] };
  expect(missing(said).map((t) => t.to)).not.toContain("ci");
  expect(missing(said).map((t) => t.to)).toContain("severity");
});
