// @vitest-environment jsdom
import { act, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { Ending } from "../../api/types";
import { APPROVAL, desk, NO_CONNECTION, play, show, TASK, ticket } from "../../testing/stage";
import { STILL } from "../../ui/steady";
import { DeskPage } from "./DeskPage";

const first = ticket([TASK]);
const second = ticket([{ ...APPROVAL, visit: "I-8.1.1" }], { number: "I-8", title: "Gate 2 stands open" });

/** A desk with two things on it, before somebody whose clock a test turns. */
function twoThings() {
  vi.useFakeTimers({ shouldAdvanceTime: true });
  const ending: Ending = { person: "teo", at: "2026-03-02T10:00:00Z", how: "took “Close the lane”" };
  const answers = {
    "GET /api/desk": desk(first, second) as unknown,
    "GET /api/tickets/I-7": first as unknown,
    "GET /api/tickets/I-8": second,
    "GET /api/endings?item=I-7.1.1": ending,
    "POST /api/tasks/I-7.1.1/complete": null,
    "POST /api/approvals/I-8.1.1/vote": null,
    "PUT /api/tasks/I-7.1.1/draft": null,
  };
  const sent = play(answers);
  const { queries } = show(<DeskPage />);
  const user = userEvent.setup({ advanceTimers: (ms) => vi.advanceTimersByTime(ms) });
  return {
    sent,
    user,
    decisions: () => sent.filter((s) => !s.path.endsWith("/draft")),
    /** Teo has done the first; the desk and the ticket are read anew. */
    doneByTeo: async () => {
      answers["GET /api/desk"] = desk(second);
      answers["GET /api/tickets/I-7"] = ticket([]);
      await act(() => queries.invalidateQueries());
    },
    still: () => act(() => vi.advanceTimersByTimeAsync(STILL + 50)),
  };
}

const button = (name: RegExp) => screen.findByRole("button", { name });

describe("the Desk", () => {
  it("lets a digit press a button only once its card has stood still", async () => {
    const { user, decisions, still } = twoThings();
    const close = await button(/Close the lane$/);
    await user.keyboard("1");
    expect(close.getAttribute("aria-keyshortcuts")).toBeNull();
    expect(decisions()).toEqual([]);
    await still();
    expect(close.getAttribute("aria-keyshortcuts")).toBe("1");
    await user.keyboard("1");
    await waitFor(() => expect(decisions()).toMatchObject([{ body: { outcome: "Close the lane" } }]));
  });

  it("keeps before somebody what another settles, with what they typed, and takes no key for what follows", async () => {
    const { user, decisions, doneByTeo, still } = twoThings();
    await still();
    const field = await screen.findByLabelText(/What you saw/);
    await user.type(field, "The arm is bent, gate 2");
    await doneByTeo();
    const told = await screen.findByRole("status", { name: "What became of it" });
    await waitFor(() => expect(told.textContent).toContain("Teo Marchetti took “Close the lane”"));
    expect((field as HTMLInputElement).value).toBe("The arm is bent, gate 2");
    // Every way to press something that is over: by digit, by hand, by Enter in its form.
    field.blur();
    await still();
    await user.keyboard("12");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: /Close the lane$/ }).disabled).toBe(true);
    await user.click(screen.getByRole("button", { name: /Close the lane$/ }));
    await user.type(field, "{Enter}");
    expect(decisions()).toEqual([]);
  });

  it("goes on to the next by the person's hand only, and that takes a digit only after it stood still", async () => {
    const { user, decisions, doneByTeo, still } = twoThings();
    await still();
    await doneByTeo();
    await user.click(await screen.findByRole("button", { name: "Go on" }));
    await button(/Approve$/);
    await user.keyboard("1");
    expect(decisions()).toEqual([]);
    await still();
    await user.keyboard("1");
    await waitFor(() => expect(decisions()).toMatchObject([{ body: { approve: true, round: 2, digest: "d-2" } }]));
  });

  it("takes a digit at once for what somebody picked while nothing moved", async () => {
    const { user, decisions, still } = twoThings();
    await screen.findByLabelText(/What you saw/);
    await still();
    await user.keyboard("j");
    await button(/Approve$/);
    await user.keyboard("1");
    await waitFor(() => expect(decisions()).toMatchObject([{ path: "/api/approvals/I-8.1.1/vote" }]));
  });

  it("says that it is empty, or that it could not be read, and tries again", async () => {
    let down = true;
    play({
      "GET /api/desk": () => (down ? NO_CONNECTION : desk()),
    });
    show(<DeskPage />);
    expect(await screen.findByText(/The server does not answer/)).toBeTruthy();
    down = false;
    await userEvent.click(screen.getByRole("button", { name: /Try again/ }));
    await waitFor(() => expect(screen.queryByText(/The server does not answer/)).toBeNull());
    expect(screen.getByText("Your desk is clear")).toBeTruthy();
  });
});
