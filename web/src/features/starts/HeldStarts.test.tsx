// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import type { HeldLine } from "../../api/types";
import { play, Refusal, show } from "../../testing/stage";
import { HeldNotice, HeldStarts } from "./HeldStarts";

const HELD = [
  {
    live: { workflow: "frozen-board", version: 1, name: "Frozen board", trigger: { id: "t1" } },
    count: 3,
    since: "2026-03-02T10:00:00Z",
  },
] as unknown as HeldLine[];

const TICKETS = ["I-1", "I-2", "I-3"].map((ticket) => ({
  ticket,
  title: `Board ${ticket} is frozen`,
  since: "2026-03-02T10:00:00Z",
}));

async function decide(answers: Record<string, unknown>) {
  const sent = play({ "GET /api/held-starts/t1": TICKETS, ...answers });
  show(<HeldStarts held={HELD} />);
  await userEvent.click(await screen.findByRole("button", { name: "Decide… Frozen board" }));
  await screen.findByRole("list", { name: "Tickets" });
  return sent;
}

it("starts those that were seen and picked, and no other", async () => {
  const sent = await decide({
    "POST /api/held-starts/t1": { answered: [{ ticket: "I-1" }, { ticket: "I-3" }] },
  });
  await userEvent.click(screen.getByRole("checkbox", { name: "I-2" }));
  await userEvent.type(screen.getByLabelText("Why (if you like)"), "A real outage");
  await userEvent.click(screen.getByRole("button", { name: "Start it on 2 tickets" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(sent.map((s) => s.body)).toEqual([{ start: true, tickets: ["I-1", "I-3"], reason: "A real outage" }]);
});

it("says on which tickets it could not be done, and stays", async () => {
  await decide({
    "POST /api/held-starts/t1": {
      answered: [{ ticket: "I-1", problem: "It was answered." }, { ticket: "I-2" }, { ticket: "I-3" }],
    },
  });
  await userEvent.click(screen.getByRole("button", { name: "Do not start it on 3 tickets" }));
  await within(screen.getByRole("dialog")).findByText("I-1: It was answered.");
});

it("loses nothing that was typed where the answer is refused", async () => {
  await decide({ "POST /api/held-starts/t1": new Refusal(503, "Try again in a moment.") });
  await userEvent.type(screen.getByLabelText("Why (if you like)"), "A drill");
  await userEvent.click(screen.getByRole("button", { name: "Start it on 3 tickets" }));
  await screen.findByText("Try again in a moment.");
  expect(screen.getByLabelText("Why (if you like)")).toHaveProperty("value", "A drill");
});

it("says on other pages how many there are in all", async () => {
  play({});
  show(<HeldNotice held={[...HELD, ...HELD]} />);
  expect((await screen.findByRole("link")).textContent).toBe("6 starts are held back");
});

it("shows nothing where nothing is held back", () => {
  play({});
  show(<HeldStarts held={[]} />);
  expect(screen.queryByText("Held back")).toBeNull();
});
