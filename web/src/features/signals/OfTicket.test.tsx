// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Matter, Ticket } from "../../api/types";
import { play, show } from "../../testing/stage";
import { OfTicket } from "./OfTicket";

const TICKET = { number: "I-7", mayWork: true, moves: ["restored"] } as Ticket;

const matter = (key: string, more: Partial<Matter> = {}): Matter => ({
  key,
  title: `Matter ${key}`,
  inFault: ["Board monitor"],
  worst: "major",
  since: "2026-03-02T09:50:00Z",
  lastAt: "2026-03-02T09:55:00Z",
  count: 1,
  recoveryTold: false,
  ...more,
});

const FOLLOWING = { aside: { ticket: "I-7", because: "consequence" } } as const;

function on(...matters: Matter[]) {
  play({ "GET /api/tickets/I-7/matters": matters });
  show(<OfTicket ticket={TICKET} />);
}

describe("what signals say of a ticket", () => {
  it("shows a few of what follows from it, and the rest when one asks", async () => {
    on(matter("gateway"), ...[1, 2, 3, 4, 5, 6, 7].map((n) => matter(`board ${n}`, FOLLOWING)));
    await screen.findByText("Follows from this: nothing is opened for it meanwhile");
    expect(screen.getAllByRole("link")).toHaveLength(6);
    fireEvent.click(screen.getByRole("button", { name: "2 more" }));
    expect(screen.getAllByRole("link")).toHaveLength(8);
  });

  it("offers to restore it when what it is about is well, whatever follows from it", async () => {
    on(matter("gateway", { inFault: [], worst: undefined, recoveryTold: true }), matter("board", FOLLOWING));
    expect(await screen.findByRole("button", { name: "Set it to restored" })).toBeTruthy();
  });

  it("does not offer that while what it is about is in fault", async () => {
    on(matter("gateway", { recoveryTold: true }), matter("board", { ...FOLLOWING, inFault: [] }));
    await screen.findByText("Matter gateway");
    expect(screen.queryByRole("button", { name: "Set it to restored" })).toBeNull();
  });

  it("says of a change that its work explains it", async () => {
    on(matter("board", { aside: { ticket: "I-7", because: "planned work" } }));
    expect(await screen.findByText("Explained by this work: nothing is opened for it meanwhile")).toBeTruthy();
  });
});
