// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Entry, RecordView, Ticket } from "../../api/types";
import { desk, play, show, TASK, ticket } from "../../testing/stage";
import { DeskPage } from "./DeskPage";
import { TheCase } from "./TheCase";

const entry = (seq: number, text: string): Entry => ({
  seq,
  at: "2026-03-02T09:55:00Z",
  actor: { is: "person", person: "ada" },
  kind: "noteAdded",
  body: { toRequester: false },
  content: { text },
  redacted: false,
  hash: "",
});

const record = (...entries: Entry[]): RecordView =>
  ({ entries, more: false, total: entries.length, unbroken: true, anchored: 0 }) as RecordView;

const CI = {
  ci: { id: "ALD-G1", name: "Gate 1", kind: "gate", service: "gates", attributes: { lane: "open" } },
  relations: [
    { relation: "runs on", ci: "ALD-GW", name: "Pier gateway", outgoing: true, open: 2 },
    { relation: "feeds", ci: "ALD-B1", name: "Board 1", outgoing: false, open: 0 },
  ],
  otherOpen: 1,
  recent: 3,
  others: [{ number: "I-3", kind: "incident", title: "Gate 1 beeps", state: "logged", priority: "P4" }],
} as unknown as Ticket["ci"];

describe("the case on the Desk", () => {
  it("tells the CI, what is open on it and on its neighbours, and the last entries, newest first", async () => {
    const t = ticket([TASK], { seq: 9, ci: CI });
    play({ "GET /api/tickets/I-7/record?after=4": record(entry(8, "It hangs"), entry(9, "Still hangs")) });
    show(<TheCase ticket={t} item="I-7.1.1" />);
    const about = within(await screen.findByRole("region", { name: "What it is about" }));
    expect(about.getByText("I-3")).toBeTruthy();
    expect(about.getByText("Pier gateway").closest("div")?.textContent).toContain("2 open");
    expect(about.getByText("Board 1").closest("div")?.textContent).toContain("nothing open");
    expect(about.getByText("3 in 30 days")).toBeTruthy();
    const last = await screen.findByRole("region", { name: "Last on the record" });
    expect(last.textContent?.indexOf("Still hangs")).toBeLessThan(last.textContent?.indexOf("“It hangs") ?? 0);
  });

  it("asks for no record of somebody who may not read it, and shows nothing where nothing is known", async () => {
    play({ "GET /api/tickets/I-7/record?after=4": record(entry(9, "Private")) });
    show(<TheCase ticket={ticket([TASK], { seq: 9, mayReadRecord: false })} item="I-7.1.1" />);
    await Promise.resolve();
    expect(screen.queryByText(/Private/)).toBeNull();
    expect(screen.queryByRole("region")).toBeNull();
  });

  it("shows pictures as pictures, other files by name, and not what was redacted", async () => {
    const file = (seq: number, name: string | undefined, type: string) =>
      ({
        seq,
        name,
        type,
        hash: `h${seq}`,
        size: 10,
        by: "ada",
        at: "2026-03-02T09:55:00Z",
      }) as Ticket["files"][number];
    play({});
    show(
      <TheCase
        ticket={ticket([], {
          mayReadRecord: false,
          files: [file(1, "arm.png", "image/png"), file(2, "log.txt", "text/plain"), file(3, undefined, "image/png")],
        })}
        item=""
      />,
    );
    const files = within(await screen.findByRole("region", { name: "Files" }));
    expect(files.getAllByRole("img").map((i) => i.getAttribute("alt"))).toEqual(["arm.png"]);
    expect(files.getByRole("link", { name: "log.txt" }).getAttribute("href")).toBe("/api/tickets/I-7/files/h2");
    expect(files.getAllByRole("link")).toHaveLength(2);
  });
});

describe("what one only oversees", () => {
  it("stands apart on the Desk and is not counted as what needs one", async () => {
    const mine = ticket([TASK]);
    const overseen = ticket([{ ...TASK, visit: "I-8.1.1", name: "Look at gate 2", overseeing: true }], {
      number: "I-8",
    });
    play({ "GET /api/desk": desk(mine, overseen), "GET /api/tickets/I-7": mine, "GET /api/tickets/I-8": overseen });
    show(<DeskPage />);
    const apart = await screen.findByRole("region", { name: "You oversee, others are asked" });
    expect(apart.textContent).toContain("Look at gate 2");
    expect(apart.textContent).not.toContain("Look at the gate");
    expect(screen.getByRole("heading", { name: "1 needs you" })).toBeTruthy();
  });
});
