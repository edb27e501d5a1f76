// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Entry, RecordView, Then } from "../../api/types";
import { play, show, ticket } from "../../testing/stage";
import { AsItStood } from "./AsItStood";

const entry = (seq: number, text: string): Entry => ({
  seq,
  at: `2026-03-02T09:0${seq}:00Z`,
  actor: { is: "person", person: "ada" },
  kind: "noteAdded",
  body: { toRequester: false },
  content: { text },
  redacted: false,
  hash: "",
});

const RECORD = {
  entries: [entry(1, "first"), entry(2, "second"), entry(3, "third")],
  more: false,
  total: 3,
  unbroken: true,
  anchored: 0,
} as RecordView;

const then = (seq: number, state: string): Then => ({
  seq,
  at: `2026-03-02T09:0${seq}:00Z`,
  state,
  ended: false,
  fields: { priority: "P3", cause: `known at ${seq}` },
  runs: [],
  asked: seq === 2 ? [{ kind: "task", name: "Look at the gate", to: { groups: ["managers"], people: [] } }] : [],
  parts: {},
});

function Dragged() {
  const [seq, setSeq] = useState(2);
  const [left, setLeft] = useState(false);
  if (left) return <p>now</p>;
  return <AsItStood ticket={ticket([])} record={RECORD} seq={seq} onMove={setSeq} onNow={() => setLeft(true)} />;
}

async function open() {
  play({
    "GET /api/tickets/I-7/then/1": then(1, "logged"),
    "GET /api/tickets/I-7/then/2": then(2, "diagnosing"),
    "GET /api/tickets/I-7/then/3": then(3, "restored"),
  });
  show(<Dragged />, { at: "/tickets/I-7" });
  await screen.findByText("known at 2");
  return userEvent.setup();
}

describe("a ticket as it stood", () => {
  it("shows state, fields, what was asked and the record so far, and nothing that can be done", async () => {
    await open();
    expect(screen.getByText("diagnosing")).toBeTruthy();
    expect(within(screen.getByRole("region", { name: "Asked then" })).getByText(/for Duty managers/)).toBeTruthy();
    expect(screen.getByText("second")).toBeTruthy();
    expect(screen.queryByText("third")).toBeNull();
    for (const doing of [/Look at the gate/, /Add a note/, /Change…/])
      expect(screen.queryByRole("button", { name: doing })).toBeNull();
  });

  it("is dragged by key as by pointer, from the first entry to the last, and back to now", async () => {
    const user = await open();
    screen.getByRole("slider", { name: "Moment" }).focus();
    await user.keyboard("{ArrowRight}");
    await screen.findByText("known at 3");
    expect(screen.getByText("third")).toBeTruthy();
    await user.keyboard("{Home}");
    await screen.findByText("known at 1");
    expect(screen.queryByText("second")).toBeNull();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "One entry back" }).disabled).toBe(true);
    await user.click(screen.getByRole("button", { name: "Back to now" }));
    expect(screen.getByText("now")).toBeTruthy();
  });
});
