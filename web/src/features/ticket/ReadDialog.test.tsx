// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Readable, Ticket } from "../../api/types";
import { play, Refusal, show } from "../../testing/stage";
import { ReadDialog } from "./ReadDialog";

const TICKET = { number: "I-7", fields: { ci: "ALD-G1", service: "gates" } } as unknown as Ticket;
const READABLE = [
  {
    key: "gate.state",
    name: "Read a gate",
    description: "Whether it stands open.",
    inputs: [{ name: "gate", label: "Gate", type: "CI", required: true }],
  },
  { key: "kiosk.heard", name: "Ask the kiosks", description: "When each was heard.", inputs: [] },
] as unknown as Readable[];
const POST = "POST /api/tickets/I-7/readings";

const pick = async (name: RegExp) => fireEvent.click(await screen.findByRole("radio", { name }));

describe("reading by hand", () => {
  it("offers what is asked of the ticket's own CI, says what was said, and closes when one has seen it", async () => {
    const sent = play({
      "GET /api/readings": READABLE,
      [POST]: { ticket: "I-7", seq: 4, read: true, outputs: { State: "open" } },
    });
    let closed = false;
    show(<ReadDialog ticket={TICKET} onClose={() => (closed = true)} />);
    expect(await screen.findByRole("button", { name: "Choose what is read" })).toHaveProperty("disabled", true);
    await pick(/Read a gate/);
    fireEvent.click(screen.getByRole("button", { name: "Read “Read a gate”" }));
    expect((await screen.findByRole("status", { name: "What it said" })).textContent).toContain("Stateopen");
    expect(screen.getByText("It stands on the record, as entry 4.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Done" }));
    expect(closed).toBe(true);
    expect(sent.find((s) => s.method === "POST")?.body).toEqual({ action: "gate.state", inputs: { gate: "ALD-G1" } });
  });

  it("forgets what another asked for when one chooses anew", async () => {
    const sent = play({
      "GET /api/readings": READABLE,
      [POST]: { ticket: "I-7", seq: 4, read: false, outputs: {}, why: "It did not answer." },
    });
    show(<ReadDialog ticket={TICKET} onClose={() => {}} />);
    await pick(/Read a gate/);
    await pick(/Ask the kiosks/);
    fireEvent.click(screen.getByRole("button", { name: "Read “Ask the kiosks”" }));
    await waitFor(() => expect(sent.some((s) => s.method === "POST")).toBe(true));
    expect(sent.find((s) => s.method === "POST")?.body).toEqual({ action: "kiosk.heard", inputs: {} });
    expect(await screen.findByText("It could not be read.")).toBeTruthy();
    await pick(/Read a gate/);
    expect(screen.queryByText("It could not be read.")).toBeNull();
  });

  it("says why it was refused, and stays", async () => {
    play({ "GET /api/readings": READABLE, [POST]: new Refusal(429, "Many people wait for readings just now.") });
    show(<ReadDialog ticket={TICKET} onClose={() => {}} />);
    await pick(/Ask the kiosks/);
    fireEvent.click(screen.getByRole("button", { name: "Read “Ask the kiosks”" }));
    expect(await screen.findByText(/Many people wait/)).toBeTruthy();
  });

  it("says so where nothing is let any more", async () => {
    play({ "GET /api/readings": [] });
    show(<ReadDialog ticket={TICKET} onClose={() => {}} />);
    expect(await screen.findByText(/Nothing is let to be read/)).toBeTruthy();
  });
});
