// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { DecisionView } from "../../api/types";
import { play, Refusal, show } from "../../testing/stage";
import { DecidePage } from "./DecidePage";

const AT = "/api/decisions/t0ken";
const ASKED: DecisionView = {
  ticket: "I-7",
  title: "Gate 1 stands open",
  person: "Priya Lund",
  name: "Close the lane?",
  setsOff: "close the lane at ALD-G1",
  shown: [{ path: "ci.id", label: "Gate", value: "ALD-G1" }],
  commentOnDecline: true,
  commentAlways: false,
  open: true,
};

function open(asked: Partial<DecisionView> = {}, answer: unknown = ASKED) {
  const answers: Record<string, unknown> = { [`GET ${AT}`]: { ...ASKED, ...asked }, [`POST ${AT}`]: answer };
  const sent = play(answers);
  show(<DecidePage token="t0ken" />);
  return { answers, sent, user: userEvent.setup() };
}

const APPROVE = "Approve and close the lane at ALD-G1";

describe("a decision by a link from a mail", () => {
  it("decides nothing by being opened, nor by a key", async () => {
    const { sent, user } = open();
    await screen.findByRole("button", { name: APPROVE });
    await user.keyboard("12{Enter}");
    expect(sent).toEqual([]);
    expect(screen.getByText("You decide as Priya Lund.")).toBeTruthy();
  });

  it("says that the answer is on the record", async () => {
    const { sent, user } = open();
    await user.click(await screen.findByRole("button", { name: APPROVE }));
    expect(await screen.findByText("Approved. Thank you.")).toBeTruthy();
    expect(sent.map((s) => s.body)).toEqual([{ approve: true }]);
  });

  it("wants a reason for a no, where the workflow does", async () => {
    const { sent, user } = open();
    await user.click(await screen.findByRole("button", { name: "Decline…" }));
    await user.click(screen.getByRole("button", { name: "Decline" }));
    expect(sent).toEqual([]);
    await user.type(screen.getByLabelText("Why (needed)"), "Not before the 14:05");
    await user.click(screen.getByRole("button", { name: "Decline" }));
    expect(await screen.findByText("Declined. Thank you.")).toBeTruthy();
    expect(sent[0]?.body).toEqual({ approve: false, comment: "Not before the 14:05" });
  });

  it("says by whom it was decided where it is used, and offers no button", async () => {
    open({ open: false, why: "Teo Marchetti approved it at 14:02." });
    expect(await screen.findByText("Teo Marchetti approved it at 14:02.")).toBeTruthy();
    expect(screen.queryAllByRole("button")).toEqual([]);
    // What it would have shown may be of a ticket that has moved on.
    expect(screen.queryByText("ALD-G1")).toBeNull();
  });

  it("shows how it stands when another was first while it lay open", async () => {
    const { answers, user } = open({}, new Refusal(409, "It is decided."));
    const approve = await screen.findByRole("button", { name: APPROVE });
    answers[`GET ${AT}`] = { ...ASKED, open: false, why: "Teo Marchetti declined it." };
    await user.click(approve);
    expect(await screen.findByText("Teo Marchetti declined it.")).toBeTruthy();
    await waitFor(() => expect(screen.queryAllByRole("button")).toEqual([]));
  });

  it("says so where the link leads nowhere", async () => {
    play({});
    show(<DecidePage token="t0ken" />);
    expect(await screen.findByText(/There is no/)).toBeTruthy();
  });
});
