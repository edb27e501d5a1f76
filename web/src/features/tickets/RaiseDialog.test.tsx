// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { Session } from "../../api/types";
import { ADA, MIRA, NO_CONNECTION, pick, play, Refusal, show } from "../../testing/stage";
import { RaiseDialog } from "./RaiseDialog";

const RAISE = "POST /api/tickets";

function open(as: Session, answers: Record<string, unknown> = { [RAISE]: { ticket: "R-9" } }) {
  const sent = play(answers);
  const closed = vi.fn();
  const { router } = show(<RaiseDialog open onClose={closed} />, { as, at: "/tickets" });
  return { sent, closed, router, user: userEvent.setup(), answers };
}

describe("raising a ticket", () => {
  it("asks a requester for what they can say, and sends nothing else", async () => {
    const { sent, user, router } = open(MIRA);
    await user.click(await screen.findByRole("radio", { name: /I need something/ }));
    for (const grave of ["Impact", "Urgency", "For whom", "Kind"]) expect(screen.queryByLabelText(grave)).toBeNull();
    await user.type(screen.getByLabelText("What do you need, in one line"), "A key");
    await user.click(screen.getByRole("button", { name: "Send" }));
    await waitFor(() => expect(router.state.location.pathname).toBe("/tickets/R-9"));
    expect(sent.map((s) => s.body)).toEqual([{ kind: "request", fields: { title: "A key" } }]);
  });

  it("lets those who work on tickets say how grave it is, with the priority that follows", async () => {
    const { sent, user } = open(ADA);
    await user.type(await screen.findByLabelText("What is the matter, in one line"), "Gate 2 stands open");
    await pick(screen.getByLabelText("Impact"), "1");
    expect(screen.getByText("P2")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Raise it" }));
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ kind: "incident", fields: { impact: 1, urgency: 3 } }));
  });

  it("keeps what was typed over closing, and forgets it once it is raised", async () => {
    const { user } = open(MIRA);
    await user.type(await screen.findByLabelText(/in one line/), "My door");
    expect(sessionStorage.getItem("dastur-raise")).toContain("My door");
    await user.click(screen.getByRole("button", { name: "Send" }));
    await waitFor(() => expect(sessionStorage.getItem("dastur-raise")).toBeNull());
  });

  it("sends the same command again where no answer came, and another after a refusal", async () => {
    const { sent, user, answers } = open(MIRA, { [RAISE]: NO_CONNECTION });
    const press = async (words: RegExp) => {
      await user.click(screen.getByRole("button", { name: "Send" }));
      await screen.findByText(words);
    };
    await user.type(await screen.findByLabelText(/in one line/), "My door");
    await press(/does not answer/);
    answers[RAISE] = new Refusal(422, "There is no such thing.", { where: "ci" });
    await press(/There is no such thing/);
    expect(screen.getByLabelText<HTMLInputElement>(/Which thing/).getAttribute("aria-invalid")).toBe("true");
    answers[RAISE] = { ticket: "I-9" };
    await user.click(screen.getByRole("button", { name: "Send" }));
    await waitFor(() => expect(sent).toHaveLength(3));
    expect(sent[1]?.id).toBe(sent[0]?.id);
    expect(sent[2]?.id).not.toBe(sent[0]?.id);
  });
});
