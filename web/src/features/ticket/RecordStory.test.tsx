// @vitest-environment jsdom
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Entry, RecordView } from "../../api/types";
import { play, show, ticket } from "../../testing/stage";
import { RecordStory } from "./RecordStory";

const note = (seq: number, minute: number): Entry =>
  ({
    seq,
    at: `2026-03-02T10:${String(minute).padStart(2, "0")}:00Z`,
    kind: "noteAdded",
    actor: { by: "ada" },
    content: {},
    body: { kind: "noteAdded", text: `Note ${seq}`, toRequester: false },
  }) as unknown as Entry;

const record = (entries: Entry[]) =>
  ({ entries, unbroken: true, anchored: entries.length, more: false }) as unknown as RecordView;

async function look(entries: Entry[]) {
  cleanup();
  play({});
  show(<RecordStory ticket={ticket([])} record={record(entries)} onStep={() => {}} />);
  await screen.findByLabelText("Record");
  return userEvent.setup();
}

const order = () => [...document.querySelectorAll("[id^=entry-]")].map((e) => e.id.slice(6));
const ENTRIES = [note(1, 0), note(2, 30), note(3, 31)];

describe("the record", () => {
  it("marks nothing at the first look, and at the next what came meanwhile", async () => {
    await look(ENTRIES.slice(0, 1));
    expect(screen.queryByText(/new since you looked/)).toBeNull();
    await look(ENTRIES);
    expect(screen.getByRole("button", { name: "2 new since you looked" })).toBeTruthy();
    const line = screen.getByText("new since you looked ↓");
    const follows = (id: string) =>
      (line.compareDocumentPosition(document.getElementById(id) as Node) & Node.DOCUMENT_POSITION_FOLLOWING) !== 0;
    expect([follows("entry-1"), follows("entry-2")]).toEqual([false, true]);
    await look(ENTRIES);
    expect(screen.queryByText(/new since you looked/)).toBeNull();
  });

  it("has the newest on top where somebody wants that, also the next time", async () => {
    const user = await look(ENTRIES);
    expect(order()).toEqual(["1", "2", "3"]);
    expect(screen.getByText(/30 min later/)).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "newest first" }));
    expect(order()).toEqual(["3", "2", "1"]);
    expect(screen.getByText(/30 min before/)).toBeTruthy();
    await look(ENTRIES);
    expect(order()).toEqual(["3", "2", "1"]);
  });
});
