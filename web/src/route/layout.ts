/**
 * The layout of a route, as a pure function: which row a step has, how far to the right, and along which track each way
 * runs. The expected way is a straight line; a detour leaves to the right, directly below the row it leaves from, and
 * visibly returns or ends; going back runs on the left.
 */
export interface RouteStep {
  id: string;
  /** Exits in order, each with the step it leads to; null where it leads nowhere yet. */
  exits: { name: string; to: string | null }[];
  /** The exit expected to be taken; null for an end. */
  expected: string | null;
  /** The lines inside a bracket; a named one is a lane and gets a row of its own for its name. */
  lines?: { name?: string; steps: RouteStep[] }[];
}

export interface RouteRow {
  id: string;
  row: number;
  /** The number people call the step by, from 1; rows that only name a lane have none of their own. */
  number: number;
  column: number;
  /** The last column that anything drawn beside the row takes; its words stand to the right of that. */
  edge: number;
  /** Whether the row stands on the straight line from the first step. */
  main: boolean;
  /** Whether any way leads here from the first step. */
  reached: boolean;
  /** The lane's name, for the row that only says it; its id is that of the fork with the lane's number. */
  lane?: string;
}

/** What is drawn around the lines of a bracket: they run side by side from its row to the last of theirs. */
export interface RouteBracket {
  id: string;
  /** The column of the bracket's own row. */
  column: number;
  top: number;
  bottom: number;
  /** The columns of its lines, with the rows where each begins and ends. */
  lines: { column: number; from: number; to: number }[];
}

export interface RouteWay {
  from: string;
  exit: string;
  to: string;
  /** Main line, detour (to the right or returning), or back (upwards, on the left). */
  kind: "main" | "detour" | "back";
  /** The column whose track it runs along between its rows; for a way back, the number of its track on the left. */
  track: number;
}

export interface RouteLayout {
  rows: RouteRow[];
  ways: RouteWay[];
  brackets: RouteBracket[];
  columns: number;
  backTracks: number;
}

/** Detours nest no deeper than this; deeper ones share the last column, so that names stay readable. */
const MAX_COLUMN = 6;

const flat = (steps: RouteStep[]): RouteStep[] =>
  steps.flatMap((s) => [s, ...(s.lines ?? []).flatMap((l) => flat(l.steps))]);

export function layoutRoute(steps: RouteStep[]): RouteLayout {
  const all = flat(steps);
  const byId = new Map(all.map((s) => [s.id, s]));
  const rows: RouteRow[] = [];
  const brackets: RouteBracket[] = [];
  const placed = new Map<string, RouteRow>();
  const reserved = new Set<string>();
  const reached = reachedFrom(steps[0], byId);
  let count = 0;

  const chainFrom = (id: string): string[] => {
    const chain: string[] = [];
    let next: string | null | undefined = id;
    while (next && byId.has(next) && !reserved.has(next)) {
      reserved.add(next);
      chain.push(next);
      const step: RouteStep | undefined = byId.get(next);
      next = step?.exits.find((e) => e.name === step.expected)?.to;
    }
    return chain;
  };

  const place = (chain: string[], column: number, main: boolean) => {
    for (const id of chain) {
      const row: RouteRow = {
        id,
        row: rows.length,
        number: ++count,
        column,
        edge: column,
        main,
        reached: reached.has(id),
      };
      rows.push(row);
      placed.set(id, row);
      const step = byId.get(id);
      if (step?.lines?.length) inside(step, row);
      for (const exit of step?.exits ?? []) {
        if (exit.to && byId.has(exit.to) && !reserved.has(exit.to)) {
          place(chainFrom(exit.to), Math.min(column + 1, MAX_COLUMN), false);
        }
      }
    }
  };

  /** The lines of a bracket stand below it, each in a column of its own, so that lanes run side by side. */
  const inside = (step: RouteStep, row: RouteRow) => {
    const bracket: RouteBracket = { id: step.id, column: row.column, top: row.row, bottom: row.row, lines: [] };
    brackets.push(bracket);
    (step.lines ?? []).forEach((line, i) => {
      const column = Math.min(row.column + 1 + i, MAX_COLUMN);
      const from = rows.length;
      if (line.name !== undefined) {
        const id = `${step.id}/${i}`;
        rows.push({
          id,
          row: from,
          number: count,
          column,
          edge: column,
          main: row.main,
          reached: row.reached,
          lane: line.name,
        });
      }
      const first = line.steps[0];
      if (first) place(chainFrom(first.id), column, row.main);
      for (const left of line.steps) if (!reserved.has(left.id)) place(chainFrom(left.id), column, false);
      bracket.lines.push({ column, from, to: Math.max(from, rows.length - 1) });
    });
    bracket.bottom = rows.length - 1;
  };

  if (steps[0]) place(chainFrom(steps[0].id), 0, true);
  for (const step of steps) if (!reserved.has(step.id)) place(chainFrom(step.id), 1, false);

  // Lanes run beside each other along the whole bracket: what a row says begins to the right of all of them.
  for (const b of brackets.filter((b) => b.lines.length > 1)) {
    const outermost = Math.max(...b.lines.map((l) => l.column));
    for (const row of rows.slice(b.top + 1, b.bottom + 1)) row.edge = Math.max(row.edge, outermost);
  }
  const ways = tracks(byId, placed, rows);
  for (const way of ways) {
    const [from, to] = [placed.get(way.from)?.row ?? 0, placed.get(way.to)?.row ?? 0];
    if (way.kind === "back") continue;
    for (const row of rows.slice(from + 1, to)) row.edge = Math.max(row.edge, way.track);
  }
  return {
    rows,
    ways,
    brackets,
    columns:
      1 + Math.max(0, ...rows.map((r) => r.column), ...ways.filter((w) => w.kind !== "back").map((w) => w.track)),
    backTracks: Math.max(0, ...ways.filter((w) => w.kind === "back").map((w) => w.track + 1)),
  };
}

function reachedFrom(first: RouteStep | undefined, byId: Map<string, RouteStep>): Set<string> {
  const reached = new Set<string>();
  const open = first ? [first.id] : [];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (reached.has(id)) continue;
    reached.add(id);
    const step = byId.get(id);
    for (const exit of step?.exits ?? []) if (exit.to && byId.has(exit.to)) open.push(exit.to);
    for (const line of step?.lines ?? []) if (line.steps[0]) open.push(line.steps[0].id);
  }
  return reached;
}

interface Taken {
  track: number;
  top: number;
  bottom: number;
  to: string;
}

/** Gives each way a track that passes no step and shares its length only with ways to the same step. */
function tracks(byId: Map<string, RouteStep>, placed: Map<string, RouteRow>, rows: RouteRow[]): RouteWay[] {
  const ways: RouteWay[] = [];
  const taken: Taken[] = [];
  const takenBack: Taken[] = [];
  for (const row of rows) {
    const step = byId.get(row.id);
    for (const exit of step?.exits ?? []) {
      const target = exit.to ? placed.get(exit.to) : undefined;
      if (!step || !exit.to || !target) continue;
      const base = { from: step.id, exit: exit.name, to: exit.to };
      if (target.row <= row.row) {
        const track = free(takenBack, 0, target.row, row.row, exit.to, () => false);
        ways.push({ ...base, kind: "back", track });
        continue;
      }
      const straight = exit.name === step.expected;
      const passes = (track: number) => rows.slice(row.row + 1, target.row).some((r) => r.column === track);
      const start =
        straight || target.column > row.column ? Math.max(row.column, straight ? 0 : target.column) : row.column + 1;
      const track = free(taken, start, row.row, target.row, exit.to, passes);
      ways.push({ ...base, kind: straight && row.main && target.main ? "main" : "detour", track });
    }
  }
  return ways;
}

function free(
  taken: Taken[],
  start: number,
  top: number,
  bottom: number,
  to: string,
  passesStep: (track: number) => boolean,
): number {
  let track = start;
  const clashes = () =>
    taken.some((t) => t.track === track && t.to !== to && t.top < bottom && top < t.bottom) || passesStep(track);
  while (clashes()) track++;
  taken.push({ track, top, bottom, to });
  return track;
}
