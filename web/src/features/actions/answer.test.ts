import { describe, expect, it } from "vitest";
import type { Action } from "../../api/types";
import { nameFor, typeFor, under, withOutput } from "./answer";

describe("pointing at an answer", () => {
  it("makes pointers as RFC 6901 has them", () => {
    expect(under(under("", "a/b"), 0)).toBe("/a~1b/0");
    expect(under("", "m~n")).toBe("/m~0n");
  });

  it.each([
    ["/lock", [], "lock"],
    ["/job/lock number", [], "lockNumber"],
    ["/values/0", [], "value0"],
    ["/a~1b", [], "aB"],
    ["/lock", ["lock", "lock2"], "lock3"],
  ])("names what stands at %s", (pointer, taken, name) => expect(nameFor(pointer, taken)).toBe(name));

  it.each([
    ["x", "text"],
    ["x\ny", "long text"],
    [7, "whole number"],
    [7.5, "number"],
    [false, "yes or no"],
    [[1], "list"],
    [{}, "any value"],
  ])("knows the kind of %j", (value, type) => expect(typeFor(value)).toBe(type));

  it("adds an output and leaves the others", () => {
    const before = { outputs: [{ field: { name: "lock" }, pointer: "/lock" }] } as unknown as Action;
    const after = withOutput(before, "/job/lock", "L-1");
    expect(after.outputs[0]).toBe(before.outputs[0]);
    expect(after.outputs[1]).toEqual({
      field: { name: "lock2", label: "Lock2", type: "text", required: false },
      pointer: "/job/lock",
    });
  });
});
