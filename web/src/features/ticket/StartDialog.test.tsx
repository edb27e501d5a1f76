// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { Run, Ticket } from "../../api/types";
import { play, Refusal, show, ticket } from "../../testing/stage";
import { StartDialog } from "./StartDialog";

const STARTABLE: Ticket["startable"] = [
  {
    workflow: "fares",
    name: "Fares to kiosks",
    purpose: "Sends fares.",
    mainLine: ["Send"],
    machines: ["Kiosks"],
    startForm: [],
  },
  {
    workflow: "look",
    name: "Look again",
    purpose: "Somebody looks.",
    mainLine: ["Look", "Say"],
    machines: [],
    startForm: [{ name: "why", label: "Why", type: "text", required: true }],
  },
];

function open(runs: Run[] = [], answer: unknown = { run: "I-7.2" }) {
  const sent = play({ "POST /api/tickets/I-7/runs": answer });
  const closed = vi.fn();
  show(<StartDialog ticket={ticket([], { startable: STARTABLE, runs })} onClose={closed} />);
  return { sent, closed, user: userEvent.setup() };
}

const choose = async (user: ReturnType<typeof userEvent.setup>, name: RegExp) =>
  user.click(await screen.findByRole("radio", { name }));

describe("starting a workflow by hand", () => {
  it("chooses none by itself, and Enter starts none", async () => {
    const { user, sent } = open();
    const start = await screen.findByRole<HTMLButtonElement>("button", { name: "Choose a workflow" });
    expect(start.disabled).toBe(true);
    for (const radio of screen.getAllByRole("radio")) expect(radio.ariaChecked).toBe("false");
    await user.keyboard("{Enter}");
    expect(sent).toEqual([]);
  });

  it("says what it will do, what machines change, and that one is under way already", async () => {
    const { user } = open([
      { workflow: "fares" } as Run,
      { workflow: "fares", endedAt: "2026-03-01T10:00:00Z" } as Run,
    ]);
    await choose(user, /Fares to kiosks/);
    const told = screen.getByRole("region", { name: "What it will do" });
    expect(told.textContent).toContain("Machines then change something outside: Kiosks");
    expect(told.textContent).toContain("One run of it is under way on this ticket already");
    await choose(user, /Look again/);
    expect(within(screen.getByRole("region")).queryByText(/Machines/)).toBeNull();
  });

  it("starts what was chosen with what was filled in, and forgets what was filled in for another", async () => {
    const { user, sent, closed } = open();
    await choose(user, /Look again/);
    await user.type(screen.getByLabelText(/Why/), "Rain");
    await choose(user, /Fares/);
    await choose(user, /Look again/);
    expect(screen.getByLabelText<HTMLInputElement>(/Why/).value).toBe("");
    await user.type(screen.getByLabelText(/Why/), "Wind");
    await user.click(screen.getByRole("button", { name: "Start “Look again”" }));
    await waitFor(() => expect(closed).toHaveBeenCalled());
    expect(sent.map((s) => s.body)).toEqual([{ workflow: "look", inputs: { why: "Wind" } }]);
  });

  it("stays open and says why it was refused", async () => {
    const { user, closed } = open([], new Refusal(409, "The ticket is closed."));
    await choose(user, /Fares/);
    await user.click(screen.getByRole("button", { name: "Start “Fares to kiosks”" }));
    expect(await screen.findByText("The ticket is closed.")).toBeTruthy();
    expect(closed).not.toHaveBeenCalled();
  });
});
