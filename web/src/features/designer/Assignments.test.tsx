// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Step, StepOf, Version } from "../../api/types";
import { pick, play, show } from "../../testing/stage";
import { Assignments } from "./Assignments";

const CATALOGUE = {
  actions: [],
  ladders: [],
  signalPaths: [],
  paths: [
    { path: "ticket.answer", field: { name: "answer", label: "Answer", type: "text", required: false } },
    { path: "ci.site", field: { name: "site", label: "Site", type: "text", required: false } },
  ],
};

const VERSION = { body: { steps: [] }, startForm: [], vars: [], conditions: {} } as unknown as Version;

type Update = StepOf<"update">;

function Editor({ kept }: { kept: { now: Update } }) {
  const [step, setStep] = useState(kept.now);
  kept.now = step;
  return <Assignments step={step} version={VERSION} onChange={(s: Step) => setStep(s as Update)} />;
}

function shown(target: string) {
  play({ "GET /api/catalogue": CATALOGUE, "GET /api/directory": {}, "POST /api/catalogue/check": {} });
  const kept = {
    now: { kind: "update", id: "u", name: "U", ways: {}, set: [{ target, text: "x" }] } as unknown as Update,
  };
  show(<Editor kept={kept} />);
  return () => kept.now.of;
}

describe("whose values an update sets", () => {
  it("is the ticket's CI, until another is named", async () => {
    const of = shown("ci.site");
    await pick(await screen.findByLabelText("Values of the CI are of"), "other");
    await pick(await screen.findByLabelText("Which CI"), "expression");
    fireEvent.change(screen.getByLabelText("Which CI: value"), { target: { value: "board.id" } });
    await waitFor(() => expect(of()).toBe("board.id"));
    await pick(screen.getByLabelText("Values of the CI are of"), "own");
    await waitFor(() => expect(of()).toBeUndefined());
  });

  it("is not asked where nothing of a CI is set", async () => {
    shown("ticket.answer");
    await screen.findByText("Set one more");
    expect(screen.queryByLabelText("Values of the CI are of")).toBeNull();
  });
});
