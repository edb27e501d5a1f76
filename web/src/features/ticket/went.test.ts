import { describe, expect, it } from "vitest";
import type { Entry, Ticket } from "../../api/types";
import { whereTimeWent } from "./went";

const MINUTE = 60_000;
const at = (minute: number) => new Date(Date.parse("2026-03-02T10:00:00Z") + minute * MINUTE).toISOString();

let seq = 0;
const entry = (minute: number, kind: string, visit?: string, body: object = {}, person?: string) =>
  ({ seq: ++seq, at: at(minute), kind, visit, body, actor: person ? { person } : {} }) as unknown as Entry;

const runs = (ends: Record<string, number>) =>
  [{ visits: Object.entries(ends).map(([id, minute]) => ({ id, endedAt: at(minute) })) }] as unknown as Ticket["runs"];

const went = (entries: Entry[], ends: Record<string, number>, until: number) =>
  whereTimeWent(entries, runs(ends), Date.parse(at(until)), (to) => [...to.groups, ...to.people].join(" or ")).map(
    (s) => [s.had, s.who, s.took / MINUTE],
  );

const TASK = { to: { groups: ["technicians"], people: [] } };

describe("where time went", () => {
  it("is told by who had it, and adds up to the whole", () => {
    const told = went(
      [
        entry(0, "ticketRaised"),
        entry(5, "taskOffered", "v1", TASK),
        entry(15, "approvalAsked", "v2", { electorate: ["teo", "priya"] }),
        entry(35, "callRequested", "v3"),
      ],
      { v1: 15, v2: 35, v3: 36 },
      40,
    );
    expect(told).toEqual([
      ["nobody", "nobody", 9],
      ["people", "technicians", 10],
      ["decision", "teo or priya", 20],
      ["machine", "machines", 1],
    ]);
    expect(told.reduce((n, [, , m]) => n + Number(m), 0)).toBe(40);
  });

  it("counts what lies side by side once, for whom it waits most", () => {
    expect(
      went(
        [entry(0, "ticketRaised"), entry(0, "callRequested", "m"), entry(2, "taskOffered", "t", TASK)],
        { m: 10, t: 6 },
        12,
      ),
    ).toEqual([
      ["machine", "machines", 6],
      ["people", "technicians", 4],
      ["nobody", "nobody", 2],
    ]);
  });

  it("goes over to whoever took it, and goes on while it is open", () => {
    expect(
      went(
        [
          entry(0, "taskOffered", "t", TASK),
          entry(3, "taskClaimed", "t", {}, "runa"),
          entry(9, "taskPassedOn", "t", { to: { groups: [], people: ["marek"] } }),
        ],
        {},
        20,
      ),
    ).toEqual([
      ["people", "technicians", 3],
      ["people", "runa", 6],
      ["people", "marek", 11],
    ]);
  });

  it("is with whoever it is given to while nothing is asked", () => {
    expect(
      went(
        [
          entry(0, "ticketRaised", undefined, { fields: { group: "technicians" } }),
          entry(4, "ticketChanged", undefined, { changes: { assignee: { after: "runa" } } }),
          entry(7, "updated", "u", { changes: { assignee: { before: "runa" }, group: { before: "technicians" } } }),
        ],
        {},
        9,
      ),
    ).toEqual([
      ["people", "technicians", 4],
      ["people", "runa", 3],
      ["nobody", "nobody", 2],
    ]);
  });

  it("tells nothing of an empty record, and nothing of no time", () => {
    expect(went([], {}, 5)).toEqual([]);
    expect(went([entry(5, "ticketRaised")], {}, 5)).toEqual([]);
  });
});
