/** The designer's model: what editing a draft means, without React and without the network. */
import type { Action, Step, Version } from "../../api/types";
import { allSteps, exitsOf, expectedOf, linesOf, waysOf } from "../../route/ofVersion";

export type Kind = Exclude<
  Step["kind"],
  "capture" | "check" | "call" | "escalate" | "stage" | "fork" | "for each" | "repeat"
>;

/** The words that begin a step when typed, and what is offered to choose from. */
export const BEGINNINGS: { kind: Kind; word: string; says: string }[] = [
  { kind: "task", word: "ask", says: "a person does something" },
  { kind: "approval", word: "approve", says: "people decide" },
  { kind: "automation", word: "run", says: "a machine does something" },
  { kind: "notify", word: "tell", says: "people are told" },
  { kind: "update", word: "set", says: "values are set" },
  { kind: "branch", word: "if", says: "data decides" },
  { kind: "wait", word: "wait", says: "time passes" },
  { kind: "end", word: "end", says: "the line ends" },
];

/** What a typed line begins: its kind and the rest as the step's name. */
export function begin(line: string): { kind: Kind | undefined; name: string } {
  const [first = "", ...rest] = line.trim().split(/\s+/);
  const found = BEGINNINGS.find((b) => b.word === first.toLowerCase());
  const name = found ? rest.join(" ") : line.trim();
  return { kind: found?.kind, name: name.charAt(0).toUpperCase() + name.slice(1) };
}

/** An id for a step, a word of its name that no other step has. */
export function idFor(name: string, version: Version): string {
  const words = name
    .normalize("NFKD")
    .replace(/[^A-Za-z0-9 ]/g, "")
    .trim()
    .split(/\s+/)
    .slice(0, 3)
    .map((w, i) => (i === 0 ? w.toLowerCase() : w.charAt(0).toUpperCase() + w.slice(1).toLowerCase()));
  let base = words.join("").slice(0, 30);
  if (!/^[a-z]/.test(base)) base = `step${base}`;
  const taken = new Set(allSteps(version.body.steps).map((s) => s.id));
  let id = base;
  for (let n = 2; taken.has(id); n++) id = `${base}${n}`;
  return id;
}

/** A new step of a kind, as little filled as it can be. */
export function newStep(kind: Kind, name: string, version: Version, actions: Action[]): Step {
  const title = name || DEFAULT_NAMES[kind];
  const base = { id: idFor(title, version), name: title, ways: {} };
  switch (kind) {
    case "task":
      return { ...base, kind, assignee: { is: "ticketGroup" }, outcomes: ["Done"], mayLeaveOut: false };
    case "approval":
      return {
        ...base,
        kind,
        asked: [],
        rule: { rule: "any one" },
        notRequester: true,
        shown: ["ticket.title", "ticket.ci"],
        commentOnDecline: true,
      };
    case "branch":
      return { ...base, kind, cases: [{ name: "yes", when: "ticket.impact <= 2" }] };
    case "automation":
      return { ...base, kind, action: actions[0]?.key ?? "none", inputs: {} };
    case "notify":
      return { ...base, kind, to: [{ is: "requester" }], subject: "{{ ticket.number }}: {{ ticket.title }}", text: "" };
    case "update":
      return { ...base, kind, set: [{ target: "ticket.state", text: "" }] };
    case "wait":
      return { ...base, kind, span: "10 min" };
    case "end":
      return { id: base.id, name: title, kind, result: title.toLowerCase(), ending: "line" };
  }
}

const DEFAULT_NAMES: Record<Kind, string> = {
  task: "Look at it",
  approval: "Approve",
  branch: "Which is it?",
  automation: "Run an action",
  notify: "Tell people",
  update: "Set values",
  wait: "Wait",
  end: "Done",
};

export const stepOf = (version: Version, id: string | undefined) =>
  allSteps(version.body.steps).find((s) => s.id === id);

/** The steps among which one stands: of the top level, or of the line of a bracket. */
export function levelOf(version: Version, id: string | undefined): Step[] {
  const search = (steps: Step[]): Step[] | undefined => {
    if (steps.some((s) => s.id === id)) return steps;
    for (const step of steps) {
      for (const line of linesOf(step)) {
        const found = search(line.steps);
        if (found) return found;
      }
    }
    return undefined;
  };
  return search(version.body.steps) ?? version.body.steps;
}

// Each function below changes the draft it is given; callers hand in an immer draft, so the original stays as it was.

/** Puts a step on the way from an exit: what came after it there now comes after the new step. */
export function addAfter(
  draft: Version,
  after: string | undefined,
  exit: string | undefined,
  step: Step,
  actions: Action[],
): void {
  const before = stepOf(draft, after);
  const level = levelOf(draft, after);
  const at = before ? level.indexOf(before) + 1 : level.length;
  if (before && before.kind !== "end" && exit) {
    const target = before.ways[exit];
    const onward = expectedOf(step, actions);
    if (target && onward && step.kind !== "end") step.ways = { ...step.ways, [onward]: target };
    before.ways[exit] = step.id;
  }
  level.splice(at, 0, step);
}

/** The way by which the main line, else any, leads to a step on its level; nothing where none does. */
export function leadingTo(version: Version, id: string, actions: Action[]): { step: string; exit: string } | undefined {
  const ways = levelOf(version, id).flatMap((s) =>
    Object.entries(waysOf(s))
      .filter(([, to]) => to === id)
      .map(([exit]) => ({ step: s.id, exit, main: expectedOf(s, actions) === exit })),
  );
  const way = ways.find((w) => w.main) ?? ways[0];
  return way && { step: way.step, exit: way.exit };
}

/** Puts a step first into a line of a bracket: what was first there comes after it. */
export function addInside(draft: Version, bracket: string, line: number, step: Step, actions: Action[]): void {
  const found = stepOf(draft, bracket);
  const steps = found ? linesOf(found)[line]?.steps : undefined;
  if (!steps) return;
  const first = steps[0];
  const onward = expectedOf(step, actions);
  if (first && onward && step.kind !== "end") step.ways = { ...step.ways, [onward]: first.id };
  steps.unshift(step);
}

/** Moves a step up or down the line it stands on: it changes places with its neighbour on the expected way. */
export function moveStep(draft: Version, id: string, down: boolean, actions: Action[]): void {
  const level = levelOf(draft, id);
  const onwardOf = (s: Step) => {
    const expected = expectedOf(s, actions);
    return expected ? waysOf(s)[expected] : undefined;
  };
  const upper = down ? level.find((s) => s.id === id) : level.find((s) => onwardOf(s) === id);
  const lower = down
    ? level.find((s) => s.id === (upper ? onwardOf(upper) : undefined))
    : level.find((s) => s.id === id);
  if (!upper || !lower || upper.kind === "end" || lower.kind === "end") return;
  const after = onwardOf(lower);
  const upperExit = expectedOf(upper, actions);
  const lowerExit = expectedOf(lower, actions);
  if (!upperExit || !lowerExit) return;
  for (const other of level) {
    if (other.kind === "end" || other.id === upper.id || other.id === lower.id) continue;
    for (const [exit, to] of Object.entries(other.ways)) if (to === upper.id) other.ways[exit] = lower.id;
  }
  lower.ways[lowerExit] = upper.id;
  if (after) upper.ways[upperExit] = after;
  else delete upper.ways[upperExit];
  const [i, j] = [level.indexOf(upper), level.indexOf(lower)];
  level[i] = lower;
  level[j] = upper;
}

export function replaceStep(draft: Version, id: string, step: Step): void {
  const level = levelOf(draft, id);
  const at = level.findIndex((s) => s.id === id);
  if (at >= 0) level[at] = step;
}

/** Leads an exit to a step, or nowhere. */
export function relead(draft: Version, id: string, exit: string, to: string | undefined): void {
  const step = stepOf(draft, id);
  if (!step || step.kind === "end") return;
  if (to) step.ways[exit] = to;
  else delete step.ways[exit];
}

/** Takes a step away; ways that led to it lead on to where it was expected to go. */
export function removeStep(draft: Version, id: string, actions: Action[]): void {
  const step = stepOf(draft, id);
  if (!step) return;
  const expected = expectedOf(step, actions);
  const onward = expected ? waysOf(step)[expected] : undefined;
  const level = levelOf(draft, id);
  level.splice(level.indexOf(step), 1);
  for (const other of level) {
    if (other.kind === "end") continue;
    for (const [exit, to] of Object.entries(other.ways)) {
      if (to !== id) continue;
      if (onward && onward !== id && onward !== other.id) other.ways[exit] = onward;
      else delete other.ways[exit];
    }
  }
}

/** Renames an outcome or a case and keeps its way. */
export function renameExit(step: Step, before: string, after: string): Step {
  if (step.kind === "end") return step;
  const ways = Object.fromEntries(Object.entries(step.ways).map(([exit, to]) => [exit === before ? after : exit, to]));
  const expected = step.expected === before ? after : step.expected;
  if (step.kind === "task")
    return { ...step, ways, expected, outcomes: step.outcomes.map((o) => (o === before ? after : o)) };
  if (step.kind === "branch")
    return { ...step, ways, expected, cases: step.cases.map((c) => (c.name === before ? { ...c, name: after } : c)) };
  return step;
}

/** Kinds that a task of a pasted procedure can be turned into. */
export const TURNS: { kind: "task" | "approval" | "check" | "automation" | "notify"; label: string }[] = [
  { kind: "task", label: "a task for a person" },
  { kind: "approval", label: "an approval" },
  { kind: "check", label: "a check by rules" },
  { kind: "automation", label: "an automated step" },
  { kind: "notify", label: "a message" },
];

/** The same step as another kind: its id, name and the way its line goes on stay. */
export function turnInto(step: Step, kind: (typeof TURNS)[number]["kind"], version: Version, actions: Action[]): Step {
  if (step.kind === "end" || step.kind === kind) return step;
  const expected = expectedOf(step, actions);
  const onward = expected ? step.ways[expected] : undefined;
  const fresh: Step =
    kind === "check"
      ? { kind, id: step.id, name: step.name, rules: [], inputs: {}, ways: {} }
      : newStep(kind, step.name, version, actions);
  const exit = expectedOf(fresh, actions);
  const ways: Record<string, string> = onward && exit ? { [exit]: onward } : {};
  return { ...fresh, id: step.id, name: step.name, ways } as Step;
}

/** The exit a new detour should leave by: the first that leads nowhere yet and is not the expected one. */
export function detourExit(step: Step, actions: Action[]): string | undefined {
  const expected = expectedOf(step, actions);
  const others = exitsOf(step, actions).filter((e) => e !== expected);
  return others.find((e) => !waysOf(step)[e]) ?? others[0];
}
