import type { TicketRow } from "../../api/types";

/** A column of the list of tickets, by the name its choice is kept under. */
export type ColumnKey =
  | "number"
  | "priority"
  | "title"
  | "kind"
  | "state"
  | "with"
  | "requester"
  | "service"
  | "ci"
  | "clock"
  | "raised"
  | "changed";

interface ColumnFacts {
  key: ColumnKey;
  label: string;
  /** The orders the server knows for it: as pressed first, and as pressed again. */
  orders: [string, string?] | [];
  /** Whether it is there before anybody chose. */
  usual: boolean;
  /** Cannot be left out: without it a row says nothing. */
  always?: boolean;
  /** Only for those who see all tickets. */
  forAll?: boolean;
  width: string;
}

export const COLUMNS: ColumnFacts[] = [
  { key: "number", label: "Number", orders: ["number-last", "number"], usual: true, always: true, width: "w-20" },
  { key: "priority", label: "Prio", orders: ["priority", "priority-last"], usual: true, width: "w-14" },
  { key: "title", label: "Title", orders: ["title", "title-last"], usual: true, always: true, width: "min-w-52" },
  { key: "kind", label: "Kind", orders: [], usual: false, width: "w-24" },
  { key: "state", label: "State", orders: ["state", "state-last"], usual: true, width: "w-28" },
  { key: "with", label: "With", orders: ["with", "with-last"], usual: true, forAll: true, width: "w-34" },
  { key: "requester", label: "Asked by", orders: [], usual: false, forAll: true, width: "w-36" },
  { key: "service", label: "Service", orders: ["service", "service-last"], usual: false, width: "w-36" },
  { key: "ci", label: "CI", orders: ["ci", "ci-last"], usual: false, forAll: true, width: "w-28" },
  { key: "clock", label: "Clock", orders: ["burning"], usual: true, forAll: true, width: "w-40" },
  { key: "raised", label: "Raised", orders: ["newest", "oldest"], usual: false, width: "w-28" },
  { key: "changed", label: "Last change", orders: [], usual: true, width: "w-24" },
];

const KEPT = "dastur-ticket-columns";

/** The columns that somebody chose in this browser, else the usual ones. */
export function chosenColumns(all: boolean): ColumnKey[] {
  const mine = COLUMNS.filter((c) => all || !c.forAll);
  let kept: unknown;
  try {
    kept = JSON.parse(localStorage.getItem(KEPT) ?? "null");
  } catch {
    kept = null;
  }
  const chosen = Array.isArray(kept)
    ? mine.filter((c) => c.always || kept.includes(c.key))
    : mine.filter((c) => c.usual);
  return chosen.map((c) => c.key);
}

export const keepColumns = (columns: ColumnKey[]) => localStorage.setItem(KEPT, JSON.stringify(columns));

/** The order that a press on a column's head asks for, after the one there is; undefined where it cannot be sorted by. */
export function nextOrder(key: ColumnKey, order: string): string | undefined {
  const [first, second] = COLUMNS.find((c) => c.key === key)?.orders ?? [];
  return order === first ? (second ?? first) : first;
}

/** How a column stands in an order, as its head says it. */
export function sortedBy(key: ColumnKey, order: string): "ascending" | "descending" | undefined {
  const orders = COLUMNS.find((c) => c.key === key)?.orders ?? [];
  if (!(orders as string[]).includes(order)) return undefined;
  return order.endsWith("-last") || order === "newest" ? "descending" : "ascending";
}

/** The order a list has when none is asked for. */
export const usualOrder = (filter: URLSearchParams) =>
  filter.get("order") ?? (filter.get("open") === "true" ? "burning" : "newest");

/** By what rows can stand together; the list is then in that order. */
export const GROUPS = { priority: "priority", state: "state", with: "with", service: "service" } as const;
export type GroupKey = keyof typeof GROUPS;

/** What a row stands under. */
export function groupOf(by: GroupKey, t: TicketRow): string {
  switch (by) {
    case "priority":
      return t.priority;
    case "state":
      return t.state;
    case "with":
      return t.assignee ? `p:${t.assignee}` : t.group ? `g:${t.group}` : "";
    case "service":
      return t.service ?? "";
  }
}

/** What goes to the server: all but what only the page knows. */
export function asked(filter: URLSearchParams): URLSearchParams {
  const query = new URLSearchParams(filter);
  const by = query.get("by") as GroupKey | null;
  query.delete("by");
  if (by && by in GROUPS) query.set("order", GROUPS[by]);
  return query;
}
