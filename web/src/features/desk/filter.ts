/** One line of the Desk. @property mine whether it is asked of me by name or I claimed it, not only of a group */
export interface Row {
  id: string;
  ticket: string;
  kind: string;
  title: string;
  sub: string;
  due?: string;
  held?: boolean;
  /** Offered to others; this person only oversees it. */
  overseen?: boolean;
  priority?: string;
  mine: boolean;
}

/** What of the Desk is shown; kept in the page's address, and under a name as a view. */
export interface DeskFilter {
  text?: string;
  kind?: "tasks" | "decisions" | "else";
  own?: boolean;
}

const DECISIONS = new Set(["approval", "review"]);

function kindOf(row: Row): DeskFilter["kind"] {
  if (row.kind === "task") return "tasks";
  return DECISIONS.has(row.kind) ? "decisions" : "else";
}

/** Every word of the text stands somewhere in the line. */
export function shows(filter: DeskFilter, row: Row): boolean {
  if (filter.own && !row.mine) return false;
  if (filter.kind && kindOf(row) !== filter.kind) return false;
  const line = `${row.title} ${row.sub} ${row.priority ?? ""}`.toLowerCase();
  return (filter.text ?? "")
    .toLowerCase()
    .split(/\s+/)
    .every((word) => line.includes(word));
}

export const isPlain = (filter: DeskFilter) => !filter.text && !filter.kind && !filter.own;

/** As it stands in a view, in a fixed order, so that equal filters are equal texts. */
export function asQuery(filter: DeskFilter): string {
  const query = new URLSearchParams();
  if (filter.text) query.set("text", filter.text);
  if (filter.kind) query.set("kind", filter.kind);
  if (filter.own) query.set("own", "true");
  return query.toString();
}

/** Reads what {@link asQuery} wrote, and whatever else stands in an address. */
export function asFilter(search: Record<string, unknown>): DeskFilter {
  const kind = search.kind;
  return {
    ...(search.text ? { text: String(search.text) } : {}),
    ...(kind === "tasks" || kind === "decisions" || kind === "else" ? { kind } : {}),
    ...(search.own === true || search.own === "true" ? { own: true } : {}),
  };
}
