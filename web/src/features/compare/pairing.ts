import type { ComparisonSide, Entry } from "../../api/types";

const commonNames = (a: ComparisonSide, b: ComparisonSide) => a.names.filter((n) => b.names.includes(n)).length;

/**
 * How much two of them are about the same: first that they are of two steps, since one that went twice is rarely before and
 * after; then how many names they have in common, and then how little else each says.
 */
function likeness(a: ComparisonSide, b: ComparisonSide): number {
  const common = commonNames(a, b);
  const share = common / new Set([...a.names, ...b.names]).size;
  return common === 0 ? 0 : (a.name === b.name ? 0 : 10_000) + common + share / 2;
}

/** With what one measurement is most likely to be compared: the earlier one most about the same, of those the earliest. */
export function likelyBefore(all: ComparisonSide[], after: ComparisonSide): ComparisonSide | undefined {
  let best: ComparisonSide | undefined;
  for (const one of all) {
    if (one.ref === after.ref || (one.seq ?? 0) >= (after.seq ?? 0) || commonNames(one, after) === 0) continue;
    if (!best || likeness(one, after) > likeness(best, after)) best = one;
  }
  return best;
}

/** The two of a ticket that are most about the same, of those the latest; the last of all where no two are. */
export function likelyPair(all: ComparisonSide[]): { before?: ComparisonSide; after?: ComparisonSide } {
  let best: { before: ComparisonSide; after: ComparisonSide } | undefined;
  for (const after of [...all].reverse()) {
    const before = likelyBefore(all, after);
    if (before && (!best || likeness(before, after) > likeness(best.before, best.after))) best = { before, after };
  }
  return best ?? { after: all.at(-1) };
}

/** What is compared, as the address has it. */
export interface Compared {
  before?: string;
  after?: string;
  /** A ticket or CI to begin with. */
  of?: string;
  /** By table, the column that names its rows, as JSON. */
  keys?: string;
  /** Whether what is the same is shown, too. */
  all?: boolean;
}

/** What an address says; what is no text is left out. */
export function asCompared(s: Record<string, unknown>): Compared {
  const text = (name: string) => (typeof s[name] === "string" ? { [name]: s[name] } : {});
  return {
    ...text("before"),
    ...text("after"),
    ...text("of"),
    ...text("keys"),
    ...(s.all === true ? { all: true } : {}),
  };
}

/** Whether an entry has something to compare: what was measured, judged or filled in. */
export function bringsValues({ kind, content }: Entry): boolean {
  const brought = (content ?? {}) as Record<string, unknown>;
  const some = (value: unknown) => typeof value === "object" && value !== null && Object.keys(value).length > 0;
  switch (kind) {
    case "callDone":
    case "resultKept":
      return some(brought.outputs);
    case "taskDone":
      return some(brought.form);
    case "checkJudged":
      return some(brought.seen);
    case "reviewAsked":
    case "checked":
      return some(brought.last);
    default:
      return false;
  }
}

/** Whether something is called like a ticket. */
export const isTicket = (text: string) => /^[A-Z]+-\d+$/.test(text);

/** What a side is taken from: a ticket or a CI. */
export const whereOf = (ref: string | undefined): string | undefined =>
  ref?.startsWith("ci:") ? ref.slice(3) : ref?.slice(0, Math.max(0, ref.lastIndexOf(":"))) || undefined;
