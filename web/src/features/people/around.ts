import type { Ci } from "../../api/types";

/** A CI beside the one that is looked at. */
export interface Near {
  id: string;
  name: string;
  /** How it is related to what stands beside it; none for the one itself. */
  relation?: string;
  open: number;
}

/** A relation as it is drawn: from one to the other, both by their ids. */
export interface Line {
  from: string;
  to: string;
  relation: string;
}

/** What stands around a CI: columns from what rests on it, over itself, to what it rests on. */
export interface Around {
  columns: { level: number; shown: Near[]; more: number }[];
  lines: Line[];
}

/** As many stand in a column; the others are counted. What has tickets comes first. */
export const MOST = 8;

/** @param most as many in a column */
export function around(page: Ci, most = MOST): Around {
  const levels = new Map<string, { level: number; near: Near }>();
  const put = (level: number, near: Near) => {
    if (near.id !== page.ci.id && !levels.has(near.id)) levels.set(near.id, { level, near });
  };
  const of = (r: { ci: string; name: string; relation: string; open: number }): Near => ({
    id: r.ci,
    name: r.name,
    relation: r.relation,
    open: r.open,
  });
  for (const r of page.relations) put(r.outgoing ? 1 : -1, of(r));
  for (const r of page.further) put(r.outgoing ? 2 : -2, of(r));
  const columns = [-2, -1, 1, 2].map((level) => {
    const all = [...levels.values()].filter((n) => n.level === level).map((n) => n.near);
    all.sort(
      (a, b) => Number(b.open > 0) - Number(a.open > 0) || a.name.localeCompare(b.name, "en", { numeric: true }),
    );
    return { level, shown: all.slice(0, most), more: Math.max(0, all.length - most) };
  });
  const self = { level: 0, shown: [{ id: page.ci.id, name: page.ci.name, open: openOn(page) }], more: 0 };
  const drawn = [...columns.slice(0, 2), self, ...columns.slice(2)].filter((c) => c.shown.length > 0);
  const there = new Set(drawn.flatMap((c) => c.shown.map((n) => n.id)));
  const lines: Line[] = [
    ...page.relations.map((r) =>
      r.outgoing
        ? { from: page.ci.id, to: r.ci, relation: r.relation }
        : { from: r.ci, to: page.ci.id, relation: r.relation },
    ),
    ...page.further.map((r) =>
      r.outgoing ? { from: r.via, to: r.ci, relation: r.relation } : { from: r.ci, to: r.via, relation: r.relation },
    ),
  ];
  return { columns: drawn, lines: lines.filter((l) => there.has(l.from) && there.has(l.to)) };
}

/** How many of the tickets that are shown with it are open. */
function openOn(page: Ci): number {
  return page.tickets.filter((t) => !t.ended).length;
}
