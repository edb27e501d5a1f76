// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Step, StepOf, Version } from "../../api/types";
import { held, pick, play, show } from "../../testing/stage";
import { CheckEditor } from "./BracketEditors";

const CATALOGUE = {
  actions: [],
  ladders: [],
  signalPaths: [],
  paths: [
    { path: "ticket.impact", field: { name: "impact", label: "Impact", type: "whole number", required: false } },
    { path: "ci.site", field: { name: "site", label: "Site", type: "text", required: false } },
  ],
};

type Check = StepOf<"check">;
const check = (rule: Partial<Check["rules"][number]> = {}): Check =>
  ({
    kind: "check",
    id: "moves",
    name: "It moves",
    ways: {},
    inputs: {},
    rules: [{ name: "Picture", value: "", compare: "is", ...rule }],
  }) as unknown as Check;

const VERSION = { body: { steps: [] }, startForm: [], vars: [], conditions: {} } as unknown as Version;

function Editor({ kept }: { kept: { now: Check } }) {
  const [step, setStep] = useState<Check>(kept.now);
  kept.now = step;
  return <CheckEditor step={step} version={VERSION} onChange={(s: Step) => setStep(s as Check)} />;
}

function shown(first: Check) {
  play({ "GET /api/catalogue": CATALOGUE, "POST /api/catalogue/check": {} });
  const kept = { now: first };
  show(<Editor kept={kept} />);
  return () => kept.now.rules[0];
}

describe("a rule of a check", () => {
  it("takes what is judged from what is known, and compares it with a value of its type", async () => {
    const rule = shown(check());
    await pick(await screen.findByLabelText("What is judged"), "known");
    await pick(await screen.findByLabelText("Rule 1: which"), "ticket.impact");
    await waitFor(() => expect(rule()?.value).toBe("ticket.impact"));
    fireEvent.change(screen.getByLabelText("Rule 1 against: value"), { target: { value: "2" } });
    await waitFor(() => expect(rule()?.against).toBe("2"));
  });

  it("writes a text as a text, which nobody has to put into quotes", async () => {
    const rule = shown(check({ value: "ci.site", against: "'ALD'" }));
    const against = () => screen.getByLabelText("Rule 1 against: value") as HTMLInputElement;
    await waitFor(() => expect(against().value).toBe("ALD"));
    fireEvent.change(against(), { target: { value: "GNQ" } });
    await waitFor(() => expect(rule()?.against).toBe('"GNQ"'));
  });

  it("leaves what can only be said by an expression as it is", async () => {
    const rule = shown(check({ value: "size(steps.list.items)", against: "steps.before.count + 1" }));
    expect(held(await screen.findByLabelText("What is judged"))).toBe("expression");
    expect(held(screen.getByLabelText("compared with"))).toBe("expression");
    expect(rule()).toMatchObject({ value: "size(steps.list.items)", against: "steps.before.count + 1" });
  });
});
