// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { Ask, Run } from "../../api/types";
import { held, pick, play, show, TASK } from "../../testing/stage";
import { AskCard } from "./AskCard";
import { InterveneDialog } from "./InterveneDialog";

const SEND = "POST /api/tickets/I-7/interventions";
const task = (id: string, name: string) => ({
  id,
  name,
  kind: "task",
  outcomes: ["Close the lane", "Cleared"],
  ways: { "Close the lane": "end", Cleared: "end" },
});
const VERSION = {
  body: {
    steps: [task("look", "Look at the gate"), task("ask", "Ask the pier"), { id: "end", kind: "end", name: "Over" }],
  },
};

function open(visits: Run["visits"]) {
  const run: Run = {
    id: "I-7.1",
    workflow: "gate",
    version: 1,
    name: "Gate lane stuck open",
    status: "under way",
    startedAt: "2026-03-02T09:00:00Z",
    visits,
    offForNow: [],
  };
  const sent = play({
    "GET /api/workflows/gate/versions/1": VERSION,
    "GET /api/workflows/gate": { versions: [{ number: 1 }, { number: 2 }, { number: 3 }], liveVersion: 3 },
    "GET /api/catalogue": { actions: [] },
    [SEND]: null,
  });
  const closed = vi.fn();
  show(<InterveneDialog run={run} ticket="I-7" onClose={closed} />);
  return { sent, closed, user: userEvent.setup() };
}

const visit = (id: string, step: string) => ({ id, step, openedAt: "2026-03-02T09:00:00Z" });
const value = (label: RegExp) => held(screen.getByLabelText(label));

async function kind(word: string) {
  await pick(await screen.findByLabelText("What to do"), word);
}

describe("intervening in a run", () => {
  it("skips by the exit that somebody names, and by none of itself", async () => {
    const { user, sent, closed } = open([visit("I-7.1.1", "look")]);
    await kind("Skip");
    await user.type(screen.getByLabelText("Why"), "Nobody is there");
    expect(value(/^Leave/)).toBe("");
    await user.click(screen.getByRole("button", { name: "Skip" }));
    expect(sent).toEqual([]);
    await pick(screen.getByLabelText(/^Leave/), "Cleared");
    await user.click(screen.getByRole("button", { name: "Skip" }));
    await waitFor(() => expect(closed).toHaveBeenCalled());
    expect(sent[0]?.body).toEqual({
      run: "I-7.1",
      kind: "skip",
      reason: "Nobody is there",
      visit: "I-7.1.1",
      exit: "Cleared",
    });
  });

  it("asks which where several are open, and forgets the exit of another", async () => {
    const { sent } = open([visit("I-7.1.1", "look"), visit("I-7.1.2", "ask")]);
    await kind("Skip");
    expect(screen.queryByLabelText(/^Leave/)).toBeNull();
    await pick(screen.getByLabelText("Which step"), "Look at the gate");
    await pick(screen.getByLabelText(/^Leave/), "Cleared");
    await pick(screen.getByLabelText("Which step"), "Ask the pier");
    expect(value(/^Leave/)).toBe("");
    expect(sent).toEqual([]);
  });

  it.each([
    ["Re-run from", "From", "choose a step…"],
    ["Move to version", "Version", "choose a version…"],
  ])("%s begins with nothing chosen", async (word, label, nothing) => {
    const { user, sent } = open([visit("I-7.1.1", "look")]);
    await kind(word);
    await user.type(screen.getByLabelText("Why"), "As agreed");
    expect(screen.getByLabelText(label).textContent).toBe(nothing);
    await user.click(screen.getByRole("button", { name: word }));
    expect(sent).toEqual([]);
  });
});

describe("a stalled step", () => {
  const stalled: Ask = {
    ...TASK,
    kind: "stalled",
    task: undefined,
    stall: {
      code: "failed",
      why: "It answered 409.",
      remedies: ["retry", "take exit"],
      exits: ["ok", "failed"],
      sameInputs: true,
    },
  };

  it("is left by the way that somebody names, with a reason", async () => {
    const sent = play({ [SEND]: null });
    show(<AskCard ask={stalled} ticket="I-7" keys />);
    const user = userEvent.setup();
    const remedies = (await screen.findAllByRole("button")).map((b) => b.textContent);
    await user.click(screen.getByRole("button", { name: remedies[1] ?? "" }));
    await user.type(screen.getByLabelText(/^Why/), "Closed by hand");
    await user.click(screen.getByRole("button", { name: "Do it" }));
    expect(sent).toEqual([]);
    await pick(screen.getByLabelText("Which way"), "failed");
    await user.click(screen.getByRole("button", { name: "Do it" }));
    await waitFor(() =>
      expect(sent[0]?.body).toMatchObject({ kind: "take exit", exit: "failed", reason: "Closed by hand" }),
    );
  });

  it("is withheld on a test: as if it had been done, or in earnest, with words at hand", async () => {
    const sent = play({ [SEND]: null });
    const held = { ...stalled.stall, code: "withheld", remedies: ["take exit", "retry", "stop run"] } as Ask["stall"];
    show(<AskCard ask={{ ...stalled, stall: held }} ticket="I-7" keys />);
    const user = userEvent.setup();
    expect((await screen.findByRole("heading")).textContent).toMatch(/^Withheld: /);
    await user.click(screen.getByRole("button", { name: "Do it in earnest" }));
    expect(screen.getByText(/not undone when the test ends/)).toBeDefined();
    await user.click(screen.getByRole("button", { name: "As if it had been done…" }));
    await user.click(screen.getByRole("button", { name: "Do it" }));
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ kind: "take exit", exit: "ok", reason: "A test" }));
  });

  it("takes no key, and nothing from those it is not asked of", async () => {
    const sent = play({ [SEND]: null });
    show(<AskCard ask={{ ...stalled, mine: false }} ticket="I-7" keys />);
    await screen.findByText("It answered 409.");
    await userEvent.keyboard("12");
    expect(screen.queryAllByRole("button")).toEqual([]);
    expect(sent).toEqual([]);
  });
});
