// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Asked, AskedByMe } from "../../api/types";
import { desk, MIRA, NO_CONNECTION, play, show, TASK, ticket } from "../../testing/stage";
import { MyPage } from "./MyPage";
import { nextWords, stations } from "./standing";

const line = (more: Partial<Asked> = {}): Asked => ({
  number: "R-7",
  kind: "request",
  title: "The drawings of berth 3",
  state: "in hand",
  ended: false,
  createdAt: "2026-03-02T09:00:00Z",
  updatedAt: "2026-03-02T09:30:00Z",
  next: [],
  asksMe: false,
  maySay: [],
  ...more,
});

function open(asked: Partial<AskedByMe>, answers: Record<string, unknown> = {}) {
  const sent = play({
    "GET /api/asked": { open: [], ended: [], moreOpen: false, ...asked },
    "GET /api/desk": desk(),
    ...answers,
  });
  show(<MyPage />, { as: MIRA });
  return { sent, user: userEvent.setup() };
}

const SOLVED = "POST /api/tickets/R-7/solved";

describe("the page of those who ask", () => {
  it("tells where it stands, what happens next, who has it and until when", async () => {
    open({
      open: [line({ next: [{ what: "decision", who: ["Teo Marchetti", "Priya Lund"], due: "2026-03-02T10:30:00Z" }] })],
    });
    const one = within(await screen.findByRole("article", { name: "The drawings of berth 3" }));
    expect(one.getByText(/^To be decided by Teo Marchetti or Priya Lund, by /)).toBeTruthy();
    expect(
      within(one.getByRole("list", { name: "Where it stands" }))
        .getByText("in hand")
        .closest("li")?.ariaCurrent,
    ).toBe("step");
    expect(one.queryByRole("button")).toBeNull();
  });

  it("takes that it is solved in one stroke, and that it is not only with what is not", async () => {
    const { sent, user } = open(
      { open: [line({ state: "done", maySay: ["solved", "not solved"] })] },
      { [SOLVED]: null },
    );
    await user.click(await screen.findByRole("button", { name: "It is solved" }));
    await waitFor(() => expect(sent.map((s) => s.body)).toEqual([{ solved: true }]));
    await user.click(screen.getByRole("button", { name: "Not solved…" }));
    await user.click(screen.getByRole("button", { name: "It is not solved" }));
    expect(sent).toHaveLength(1);
    await user.type(screen.getByLabelText("What still does not work?"), "Berth 4 came");
    await user.click(screen.getByRole("button", { name: "It is not solved" }));
    await waitFor(() => expect(sent[1]?.body).toEqual({ solved: false, text: "Berth 4 came" }));
  });

  it("keeps what is not solved where it did not arrive", async () => {
    const { user } = open(
      { ended: [line({ state: "closed", ended: true, maySay: ["not solved"] })] },
      { [SOLVED]: NO_CONNECTION },
    );
    await user.click(await screen.findByRole("button", { name: "Not solved…" }));
    await user.type(screen.getByLabelText("What still does not work?"), "Berth 4 came");
    await user.click(screen.getByRole("button", { name: "It is not solved" }));
    await screen.findByText(/The server does not answer/);
    expect(sessionStorage.getItem("dastur-unsolved-R-7")).toBe("Berth 4 came");
  });

  it("shows what they are asked, on their own tickets and on others, and no key presses it", async () => {
    const own = ticket([TASK], { number: "R-7", mayReadRecord: false });
    const other = ticket([{ ...TASK, visit: "I-8.1.1", name: "Confirm the delivery" }], { number: "I-8" });
    const { sent, user } = open(
      { open: [line({ asksMe: true })] },
      { "GET /api/desk": desk(own, other), "GET /api/tickets/R-7": own, "GET /api/tickets/I-8": other },
    );
    const elsewhere = within(await screen.findByRole("region", { name: "You are asked" }));
    expect(await elsewhere.findByText("Confirm the delivery")).toBeTruthy();
    expect(elsewhere.queryByText("Look at the gate")).toBeNull();
    const mine = within(screen.getByRole("article", { name: "The drawings of berth 3" }));
    expect((await mine.findByRole("button", { name: "Close the lane" })).getAttribute("aria-keyshortcuts")).toBeNull();
    await user.keyboard("12");
    expect(sent.filter((s) => s.path.includes("complete"))).toEqual([]);
  });

  it("begins what is asked with the words that were typed", async () => {
    const { user } = open({});
    await user.type(await screen.findByLabelText("Say it in your own words"), "My door hangs");
    await user.click(screen.getByRole("button", { name: "Something does not work" }));
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByLabelText<HTMLInputElement>("What is the matter, in one line").value).toBe("My door hangs");
  });

  it("says what to do where nothing was asked yet", async () => {
    open({});
    expect(await screen.findByText(/^Nothing yet\./)).toBeTruthy();
  });
});

describe("where it stands, in words", () => {
  const when = (at: string) => at.slice(11, 16);
  it.each([
    [
      line({ next: [{ what: "work", who: ["Pier technicians"], due: "2026-03-02T11:00:00Z" }] }),
      ["With Pier technicians, until 11:00."],
    ],
    [line({ next: [{ what: "machine", who: [] }] }), ["A machine is at work on it."]],
    [line({ next: [{ what: "stalled", who: [] }] }), ["It is stuck; those who look after it know."]],
    [line({}), ["The desk has it."]],
    [line({ state: "waiting" }), ["It waits."]],
    [line({ state: "refused", ended: true }), ["declined 09:30"]],
    [line({ state: "done", maySay: ["solved", "not solved"] }), ["It is said to be done. Is it?"]],
  ])("%#", (l, words) => expect(nextWords(l, when)).toEqual(words));

  it("stands at no station where it ended otherwise", () => {
    expect(stations(line({ state: "cancelled" }))).toBeUndefined();
    expect(stations(line({ state: "closed" }))?.at).toBe(3);
    expect(stations(line({ kind: "change", state: "closed" }))?.at).toBe(4);
  });
});
