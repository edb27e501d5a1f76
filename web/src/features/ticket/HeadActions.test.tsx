// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { Ticket } from "../../api/types";
import { held, pick, play, Refusal, show, ticket } from "../../testing/stage";
import { HeadActions } from "./HeadActions";

const PUT = "PUT /api/tickets/I-7";

function open(more: Partial<Ticket> = {}, answer: unknown = null) {
  const sent = play({ [PUT]: answer });
  const ends = vi.fn();
  const t = ticket([], { moves: ["waiting", "closed", "cancelled"], fields: { group: "managers" }, ...more });
  show(<HeadActions ticket={t} onEnd={ends} />);
  return { sent, ends, user: userEvent.setup() };
}

describe("what stands at the head of a ticket", () => {
  it("is changed where it is seen, each for itself", async () => {
    const { sent } = open();
    await pick(await screen.findByLabelText("State of the ticket"), "waiting");
    await waitFor(() => expect(sent.map((s) => s.body)).toEqual([{ fields: { state: "waiting" } }]));
    await pick(screen.getByLabelText("Group that has it"), "no group");
    await waitFor(() => expect(sent[1]?.body).toEqual({ fields: { group: null } }));
  });

  it("is taken in one stroke, and not again by whoever has it", async () => {
    const { sent, user } = open();
    await user.click(await screen.findByRole("button", { name: "Take it" }));
    await waitFor(() => expect(sent.map((s) => s.body)).toEqual([{ fields: { assignee: "ada" } }]));
  });

  it("says that it is taken from somebody, and offers nothing to whoever has it", async () => {
    open({ fields: { assignee: "teo" } });
    expect(await screen.findByRole("button", { name: "Take it over" })).toBeTruthy();
    expect(held(screen.getByLabelText("Whoever has it"))).toBe("teo");
  });

  it("leaves an end to the dialog, with all it asks for", async () => {
    const { sent, ends, user } = open();
    await pick(await screen.findByLabelText("State of the ticket"), "cancelled");
    expect(ends).toHaveBeenCalledWith("cancelled");
    await user.click(screen.getByRole("button", { name: "Close…" }));
    expect(ends).toHaveBeenLastCalledWith("closed");
    expect(sent).toEqual([]);
  });

  it("says a no where it was said", async () => {
    open({}, new Refusal(422, "This incident cannot become waiting.", { where: "state" }));
    await pick(await screen.findByLabelText("State of the ticket"), "waiting");
    expect(await screen.findByText(/cannot become waiting/)).toBeTruthy();
  });
});
