// @vitest-environment jsdom
import { act, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Ask } from "../../api/types";
import { ADA, MIRA, play, show, TASK } from "../../testing/stage";
import { AskCard } from "./AskCard";
import { TakeBack } from "./TakeBack";
import { useGiven } from "./takeBack";

const DONE = "POST /api/tasks/I-7.1.1/complete";

describe("what is held", () => {
  const held: Ask = { ...TASK, heldSince: "2026-03-02T09:55:00Z" };

  it("says so before anybody answers, takes no key and no click, and lets one go on typing", async () => {
    const sent = play({ [DONE]: null, "PUT /api/drafts/I-7.1.1": null });
    show(<AskCard ask={held} ticket="I-7" keys />);
    await screen.findByText(/On hold since/);
    const user = userEvent.setup();
    await user.keyboard("1");
    expect((screen.getByRole("button", { name: /Close the lane/ }) as HTMLButtonElement).disabled).toBe(true);
    await user.type(screen.getByLabelText("What you saw"), "The arm hangs");
    expect((screen.getByLabelText("What you saw") as HTMLInputElement).value).toBe("The arm hangs");
    expect(sent.filter((s) => s.path.endsWith("/complete"))).toEqual([]);
  });
});

describe("what one oversees", () => {
  const overseen: Ask = { ...TASK, overseeing: true };

  it("names those it is offered to, and takes no key until one steps in", async () => {
    const sent = play({ [DONE]: null });
    show(<AskCard ask={overseen} ticket="I-7" keys />);
    expect((await screen.findByText(/You oversee this/)).textContent).toContain("It is offered to");
    const user = userEvent.setup();
    await user.keyboard("1");
    expect(sent).toEqual([]);
    expect(screen.queryByRole("button", { name: /Close the lane/ })).toBeNull();
    await user.click(screen.getByRole("button", { name: "Step in as overseer…" }));
    await user.click(screen.getByRole("button", { name: /Close the lane/ }));
    expect(sent[0]?.body).toMatchObject({ outcome: "Close the lane" });
  });
});

describe("a check that does not hold", () => {
  const review = (verdicts: string[]): Ask => ({
    ...TASK,
    kind: "review",
    task: undefined,
    review: { to: { groups: ["managers"], people: [] }, rules: [], verdicts },
  });

  it.each([
    [
      ["accept", "does not hold"],
      ["Accept…", "It does not hold"],
    ],
    [
      ["accept", "measure again", "put back"],
      ["Accept…", "Measure again", "Put back"],
    ],
    [["does not hold"], ["It does not hold"]],
  ])("with the ways %j offers %j and nothing else", async (verdicts, buttons) => {
    play({});
    show(<AskCard ask={review(verdicts)} ticket="I-7" keys />);
    const shown = await screen.findAllByRole("button");
    expect(shown.map((b) => b.textContent?.replace(/^\d/, "").trim())).toEqual(buttons);
  });

  it.each([
    ["those who see all tickets", ADA, true],
    ["nobody whom the page would refuse", MIRA, false],
  ])("leads %s to the comparison", async (_, as, leads) => {
    play({});
    show(<AskCard ask={review(["accept"])} ticket="I-7" keys />, { as });
    await screen.findByRole("button", { name: /Accept/ });
    expect(screen.queryByRole("link", { name: /Compare/ }) !== null).toBe(leads);
  });
});

describe("taking back", () => {
  const given = { visit: "I-7.1.1", ticket: "I-7", task: "Look at the gate", outcome: "Close the lane" };

  it.each([
    ["while nothing has followed", ["I-7.1.1"], true],
    ["and no longer once something has", [], false],
  ])("is offered %s", async (_, mayTakeBack, offered) => {
    play({ "GET /api/tickets/I-7": { number: "I-7", mayTakeBack } });
    show(<TakeBack />);
    act(() => useGiven.getState().give(given));
    await screen.findByText("Close the lane");
    const button = () => screen.queryByRole("button", { name: /Take it back/ });
    if (offered) await screen.findByRole("button", { name: /Take it back/ });
    else expect(button()).toBeNull();
    act(() => useGiven.getState().forget());
  });
});
