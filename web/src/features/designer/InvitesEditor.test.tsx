// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Step, StepOf, Version } from "../../api/types";
import { pick, play, show } from "../../testing/stage";
import { InvitesEditor } from "./InvitesEditor";

type Notify = StepOf<"notify">;
const notify = (id: string, over: Partial<Notify> = {}) =>
  ({ kind: "notify", id, name: id, to: [], subject: "S", text: "T", ways: {}, ...over }) as unknown as Notify;

function Editor({ kept, version }: { kept: { now: Notify }; version: Version }) {
  const [step, setStep] = useState(kept.now);
  kept.now = step;
  return <InvitesEditor step={step} version={version} onChange={(s: Step) => setStep(s as Notify)} />;
}

function shown(others: Notify[]) {
  play({
    "GET /api/catalogue": { actions: [], ladders: [], signalPaths: [], paths: [] },
    "POST /api/catalogue/check": {},
  });
  const kept = { now: notify("a") };
  const version = { body: { steps: [kept.now, ...others] }, startForm: [], vars: [], conditions: {} };
  show(<Editor kept={kept} version={version as unknown as Version} />);
  return () => kept.now.invites;
}

describe("what calendars are told", () => {
  it("is nothing at first, then when it begins and ends", async () => {
    const invites = shown([]);
    const told = await screen.findByLabelText("Their calendars are told");
    expect(invites()).toBeUndefined();
    await pick(told, "invites");
    await waitFor(() => expect(invites()).toEqual({ from: "ticket.plannedStart", until: "ticket.plannedEnd" }));
    expect(screen.getByLabelText("It begins")).toBeTruthy();
    expect(screen.getByLabelText("Where")).toBeTruthy();
    await pick(screen.getByLabelText("Their calendars are told"), "none");
    await waitFor(() => expect(invites()).toBeUndefined());
  });

  it("is called off where another step invites", async () => {
    const invites = shown([notify("before", { invites: { from: "now", until: "now" } })]);
    await pick(await screen.findByLabelText("Their calendars are told"), "off");
    await waitFor(() => expect(invites()).toEqual({ off: "before" }));
  });
});
