// @vitest-environment jsdom
import { act, cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Field, Run, Ticket } from "../../api/types";
import { DIRECTORY, held, NO_CONNECTION, pick, play, Refusal, show, TASK, ticket } from "../../testing/stage";
import { EditDialog } from "./EditDialog";
import { UnsentBar } from "./UnsentBar";
import { useUnsent } from "./unsent";

const field = (name: string, label: string, type: Field["type"] = "text"): Field => ({
  name,
  label,
  type,
  required: false,
});
const FIELDS = [
  field("title", "Title"),
  field("state", "State"),
  field("impact", "Impact", "whole number"),
  field("group", "Group", "group"),
  field("cause", "Cause"),
];
const PUT = "PUT /api/tickets/I-7";
const BEFORE = { title: "Gate 1", state: "diagnosing", impact: 3, priority: "P3" };
const MOVES = { state: "diagnosing", moves: ["closed", "cancelled"] };

beforeEach(() => useUnsent.setState({ list: [] }));

/** A dialog whose ticket a test may change. */
function Changing(p: { first: Ticket; onClose: () => void; changed: (set: (t: Ticket) => void) => void }) {
  const [now, set] = useState(p.first);
  p.changed(set);
  return (
    <>
      <UnsentBar />
      <EditDialog ticket={now} onClose={p.onClose} />
    </>
  );
}

/** The dialog before somebody; others change the ticket under it. */
function open(more: Partial<Ticket> = {}, answer: unknown = null) {
  const answers: Record<string, unknown> = { "GET /api/directory": { ...DIRECTORY, fields: FIELDS }, [PUT]: answer };
  const sent = play(answers);
  const closed = vi.fn();
  let change: (t: Ticket) => void = () => undefined;
  const first = ticket([], { fields: BEFORE, ...MOVES, ...more });
  show(
    <Changing
      first={first}
      onClose={closed}
      changed={(set) => {
        change = set;
      }}
    />,
  );
  return {
    answers,
    sent,
    closed,
    user: userEvent.setup(),
    byAnother: (fields: Ticket["fields"]) =>
      act(() => change(ticket([], { fields: { ...BEFORE, ...fields }, ...MOVES, state: String(fields.state) }))),
  };
}

const save = () => screen.getByRole("button", { name: "Save" });

describe("changing a ticket", () => {
  it("sends what the person changed, and nothing that another has changed meanwhile", async () => {
    const { sent, user, byAnother, closed } = open();
    const title = await screen.findByLabelText<HTMLInputElement>("Title");
    await user.clear(title);
    await user.type(title, "Gate 1, the arm");
    await byAnother({ state: "resolved", group: "managers" });
    expect(held(screen.getByLabelText("State"))).toBe("resolved");
    expect(screen.queryByRole("status", { name: "Changed meanwhile" })).toBeNull();
    await user.click(save());
    await waitFor(() => expect(closed).toHaveBeenCalled());
    expect(sent.map((s) => s.body)).toEqual([{ fields: { title: "Gate 1, the arm" } }]);
  });

  it("says what another wrote into the field that it would replace, and keeps what was typed", async () => {
    const { user, byAnother } = open();
    const title = await screen.findByLabelText<HTMLInputElement>("Title");
    await user.type(title, " stands open");
    await byAnother({ title: "Gate 1 is mended" });
    const told = screen.getByRole("status", { name: "Changed meanwhile" });
    expect(told.textContent).toContain("Title is now “Gate 1 is mended”. When you save, yours replaces it");
    expect(screen.getByText("Meanwhile: “Gate 1 is mended”. Yours replaces it.")).toBeTruthy();
    expect(title.value).toBe("Gate 1 stands open");
  });

  it("sends numbers as numbers, and an emptied field as nothing", async () => {
    const { sent, user } = open({ fields: { ...BEFORE, group: "managers" } });
    await pick(await screen.findByLabelText("Impact"), "1");
    await pick(screen.getByLabelText("Group"), "");
    await user.type(screen.getByLabelText(/^Why/), "All gates");
    await user.click(save());
    await waitFor(() => expect(sent[0]?.body).toEqual({ fields: { impact: 1, group: null }, reason: "All gates" }));
  });

  it("shows the window of a change at once, and of nothing else", async () => {
    const window = [field("plannedStart", "Planned start", "time"), field("plannedEnd", "Planned end", "time")];
    play({ "GET /api/directory": { ...DIRECTORY, fields: [...FIELDS, ...window] } });
    const change = ticket([], { kind: "change", fields: { title: "New firmware" }, state: "drafted", moves: [] });
    show(<EditDialog ticket={change} onClose={() => undefined} />);
    expect(await screen.findByLabelText("Planned start")).toBeTruthy();
    expect(screen.getByLabelText("Planned end")).toBeTruthy();
    cleanup();
    show(<EditDialog ticket={{ ...change, kind: "incident" }} onClose={() => undefined} />);
    await screen.findByLabelText("Title");
    expect(screen.queryByLabelText("Planned start")).toBeNull();
  });

  it("asks for the cause once it closes, and says what ends before it cancels", async () => {
    const run = { id: "I-7.1", name: "Gate lane stuck open", offForNow: ["Alarm off"] } as Run;
    open({ runs: [run], asks: [TASK] });
    const state = await screen.findByLabelText("State");
    expect(screen.queryByLabelText("Cause")).toBeNull();
    await pick(state, "closed");
    expect(screen.getByLabelText("Cause")).toBeTruthy();
    await pick(state, "cancelled");
    const ends = screen.getByRole("region", { name: "What ends with it" }).textContent;
    expect(ends).toContain("Cancelling ends its run: “Gate lane stuck open”. Taken off desks: “Look at the gate”.");
    expect(ends).toContain("Still off afterwards: Alarm off.");
    expect(screen.getByRole("button", { name: "Save, and cancel it" })).toBeTruthy();
  });

  it("shows a refusal at its field, and keeps a change that did not arrive", async () => {
    const refused = new Refusal(422, "At most 500 characters.", { where: "title" });
    const { answers, user } = open({}, refused);
    await user.type(await screen.findByLabelText("Title"), "!");
    await user.click(save());
    await waitFor(() => expect(screen.getByLabelText("Title").getAttribute("aria-invalid")).toBe("true"));
    expect(useUnsent.getState().list).toEqual([]);
    answers[PUT] = NO_CONNECTION;
    await user.click(save());
    expect((await screen.findByText(/your change/)).textContent).toContain("Not sent:");
  });
});
