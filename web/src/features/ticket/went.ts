import type { Entry, Ticket } from "../../api/types";

/** Who has a ticket for a while: people, those who decide, machines, time itself, or nobody. */
export type Had = "people" | "decision" | "machine" | "waiting" | "nobody";

export interface Stretch {
  had: Had;
  /** Who, in words. */
  who: string;
  /** How long, in milliseconds. */
  took: number;
}

interface Open {
  had: Had;
  who: string;
  since: number;
}

/** What weighs more when several have it at once: a ticket that waits for people is with them, whatever machines do beside. */
const WEIGHT: Had[] = ["people", "decision", "machine", "waiting", "nobody"];

type Assigned = { groups: string[]; people: string[] };

/**
 * Where a ticket's whole time went, by who had it (G13): from its record, in the order in which it first was with each. While
 * nothing is asked or under way it is with whoever it is given to, or their group; with nobody where it is given to nobody.
 *
 * @param until the moment up to which it is told
 * @param assigned who a group or people are, in words
 */
export function whereTimeWent(
  entries: Entry[],
  runs: Ticket["runs"],
  until: number,
  assigned: (to: Assigned) => string,
): Stretch[] {
  const first = entries[0];
  if (!first) return [];
  const ended = new Map(runs.flatMap((r) => r.visits.map((v) => [v.id, v.endedAt])));
  const open = new Map<string, Open>();
  const took = new Map<string, Stretch>();
  /** Whom the ticket is given to. */
  const given: { assignee?: string | null; group?: string | null } = {};
  let from = Date.parse(first.at);
  const upTo = (at: number) => {
    // What ended meanwhile is closed where it ended, the earliest first.
    for (;;) {
      const next = [...open.keys()]
        .map((id) => ({ id, at: Date.parse(ended.get(id) ?? "") }))
        .filter((e) => e.at <= at)
        .sort((a, b) => a.at - b.at)[0];
      add(next ? Math.max(from, next.at) : at);
      if (!next) return;
      open.delete(next.id);
    }
  };
  const add = (at: number) => {
    if (at <= from) return;
    const has =
      [...open.values()].sort((a, b) => WEIGHT.indexOf(a.had) - WEIGHT.indexOf(b.had) || a.since - b.since)[0] ??
      held(given, assigned);
    const key = `${has.had} ${has.who}`;
    const before = took.get(key);
    took.set(key, { had: has.had, who: has.who, took: (before?.took ?? 0) + at - from });
    from = at;
  };
  for (const e of entries) {
    const at = Date.parse(e.at);
    upTo(at);
    Object.assign(given, givenBy(e));
    const has = e.visit ? begins(e, assigned) : undefined;
    if (e.visit && has) open.set(e.visit, { ...has, since: at });
  }
  upTo(until);
  return [...took.values()];
}

const GIVEN = ["assignee", "group"] as const;

/** Whom an entry gives the ticket to, as far as it says so. */
function givenBy(e: Entry): { assignee?: string | null; group?: string | null } {
  const { fields, changes } = e.body as {
    fields?: Record<string, string>;
    changes?: Record<string, { after?: string | null }>;
  };
  return Object.fromEntries(
    GIVEN.flatMap((f) =>
      fields?.[f] ? [[f, fields[f]]] : changes && f in changes ? [[f, changes[f]?.after ?? null]] : [],
    ),
  );
}

function held(
  { assignee, group }: { assignee?: string | null; group?: string | null },
  assigned: (to: Assigned) => string,
): Omit<Open, "since"> {
  if (assignee) return { had: "people", who: assigned({ groups: [], people: [assignee] }) };
  if (group) return { had: "people", who: assigned({ groups: [group], people: [] }) };
  return { had: "nobody", who: "nobody" };
}

/** Who has it from an entry on; undefined where the entry changes nothing about that. */
function begins(e: Entry, assigned: (to: Assigned) => string): Omit<Open, "since"> | undefined {
  const body = e.body as { to?: Assigned; electorate?: string[]; name?: string };
  const by = (e.actor as { person?: string }).person;
  switch (e.kind) {
    case "taskOffered":
    case "taskPassedOn":
      return body.to && { had: "people", who: assigned(body.to) };
    case "taskClaimed":
      return by ? { had: "people", who: assigned({ groups: [], people: [by] }) } : undefined;
    case "approvalAsked":
      return { had: "decision", who: assigned({ groups: [], people: body.electorate ?? [] }) };
    case "callInBegan":
      return { had: "people", who: "whoever is called in" };
    case "callRequested":
      return { had: "machine", who: "machines" };
    case "waitBegan":
      return { had: "waiting", who: "waiting" };
    default:
      return undefined;
  }
}
