import { describe, expect, it } from "vitest";
import { asKind, bodyOf, kindOfStep, moved, STEP_KINDS, stepsOf, type WalkStep } from "./walk";

const kind = (key: string) => {
  const found = STEP_KINDS.find((k) => k.key === key);
  if (!found) throw new Error(key);
  return found;
};

describe("the steps of a walk", () => {
  const steps: WalkStep[] = [
    { type: 'Ada "L" {{ input.name }}', into: "Name" },
    { press: "Buy" },
    { expect: "Thank you" },
    { read: "Number", as: "number" },
  ];

  it("are the same once they are written and read again", () => {
    expect(stepsOf(bodyOf(steps))).toEqual(steps);
    expect(bodyOf([])).toBeUndefined();
    expect(stepsOf(undefined)).toEqual([]);
  });

  it.each(["{", '{"open": "/"}', '[{"jump": "x"}]', '[{"type": "x"}]', '["open"]', '[{"press": {"a": 1}}]'])(
    "are left as they stand where they are written otherwise: %s",
    (body) => expect(stepsOf(body)).toBeUndefined(),
  );

  it("keep what was typed when their kind changes", () => {
    expect(asKind({ type: "Adult", into: "Fare" }, kind("choose"))).toEqual({ choose: "Adult", in: "Fare" });
    expect(asKind({ expect: "Thank you" }, kind("expectNot"))).toEqual({ expectNot: "Thank you" });
    expect(asKind({ press: "Buy" }, kind("read"))).toEqual({ read: "Buy", as: "" });
  });

  it("move by one place", () => {
    expect(moved(steps, 1, -1).map((s) => kindOfStep(s)?.key)).toEqual(["press", "type", "expect", "read"]);
    expect(moved(steps, 2, 1).map((s) => kindOfStep(s)?.key)).toEqual(["type", "press", "read", "expect"]);
  });
});
