// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Ticket } from "../../api/types";
import { MIRA, NO_CONNECTION, play, show, TASK, ticket } from "../../testing/stage";
import { RequesterTicket } from "./RequesterTicket";

const NOTES = "POST /api/tickets/I-7/notes";
const talk = (seq: number, what: string, by: string, text?: string): Ticket["talk"][number] => ({
  seq,
  what,
  by,
  mine: by === "Mira Solheim",
  at: "2026-03-02T10:00:00Z",
  text,
});

function open(more: Partial<Ticket> = {}, answers: Record<string, unknown> = { [NOTES]: null }) {
  const sent = play(answers);
  const t = ticket([], {
    fields: { requester: "mira", priority: "P3" },
    mayWork: false,
    mayReadRecord: false,
    ...more,
  });
  show(<RequesterTicket ticket={t} />, { as: MIRA, at: "/tickets/I-7" });
  return { sent, user: userEvent.setup() };
}

describe("a requester's ticket", () => {
  it("tells what was said, sent and decided, and by whom; what was redacted is not made up", async () => {
    open({
      talk: [
        talk(2, "said", "Mira Solheim", "It hangs."),
        talk(5, "decided", "Teo Marchetti", "approved"),
        talk(7, "sent", "Dastur", "Please use the next gate."),
        talk(9, "said", "Ada Brandvold"),
      ],
    });
    const said = await screen.findByRole("region", { name: "What happened" });
    expect(said.textContent).toMatch(/You · .*It hangs\./);
    expect(said.textContent).toMatch(/Teo Marchetti decided · .*approved/);
    expect(said.textContent).toMatch(/Dastur wrote to you · .*Please use the next gate\./);
    expect(said.textContent).toMatch(/Ada Brandvold · .*taken off the record/);
  });

  it("takes a word more, and keeps it where it did not arrive", async () => {
    const { sent, user } = open({}, { [NOTES]: NO_CONNECTION });
    const field = await screen.findByLabelText<HTMLTextAreaElement>("Say something more");
    await user.type(field, "Still open");
    await user.click(screen.getByRole("button", { name: "Send" }));
    await screen.findByText(/The server does not answer/);
    expect(field.value).toBe("Still open");
    expect(sessionStorage.getItem("dastur-note-I-7")).toBe("Still open");
    expect(sent[0]?.body).toEqual({ text: "Still open", toRequester: true });
  });

  it("offers what is asked of them as well, and nothing to say once it is over", async () => {
    open({ asks: [TASK], ended: true });
    expect(await screen.findByRole("button", { name: "Cleared on the spot" })).toBeTruthy();
    expect(screen.queryByLabelText("Say something more")).toBeNull();
  });

  it("shows of another's ticket only what they are asked, and not what was said", async () => {
    open({
      fields: { requester: "teo", priority: "P3" },
      asks: [TASK],
      talk: [talk(2, "said", "Teo Marchetti", "Private")],
    });
    await screen.findByRole("button", { name: "Cleared on the spot" });
    await waitFor(() => expect(screen.queryByText("Private")).toBeNull());
    expect(screen.queryByLabelText("Say something more")).toBeNull();
  });
});
