import type { Action, Step, Version } from "../api/types";
import type { RouteStep } from "./layout";

/** A line inside a bracket: the steps of a lane, or of the one body. */
export interface Line {
  /** A lane's name; the body of a stage, for each or repeat has none. */
  name?: string;
  /** The condition under which a lane is opened. */
  when?: string;
  steps: Step[];
}

/** The lines inside a bracket; other steps have none. */
export function linesOf(step: Step): Line[] {
  switch (step.kind) {
    case "stage":
    case "for each":
    case "repeat":
      return [{ steps: step.body.steps }];
    case "fork":
      return step.lanes.map((l) => ({ name: l.name, when: l.when, steps: l.body.steps }));
    default:
      return [];
  }
}

/** All steps at any depth, in reading order. */
export function allSteps(steps: Step[]): Step[] {
  return steps.flatMap((s) => [s, ...linesOf(s).flatMap((l) => allSteps(l.steps))]);
}

/** Exits by which ends inside leave a bracket by name. */
const leftBy = (step: Step): string[] => [
  ...new Set(
    linesOf(step)
      .flatMap((l) => l.steps)
      .flatMap((s) => (s.kind === "end" && s.ending === "leave" ? [s.result] : [])),
  ),
];

const putsBack = (steps: Step[]): boolean =>
  steps.some(
    (s) =>
      (s.kind === "end" && s.ending === "put back") ||
      (s.kind !== "stage" && linesOf(s).some((l) => putsBack(l.steps))),
  );

/** The exits of a step that must lead somewhere, in order. Results of called workflows are known to the server only. */
export function exitsOf(step: Step, actions: Action[]): string[] {
  switch (step.kind) {
    case "task":
      return step.outcomes;
    case "approval":
      return ["approved", "declined"];
    case "branch":
      return [
        ...(step.table ? [...new Set(step.table.rows.map((r) => r.result))] : step.cases.map((c) => c.name)),
        "otherwise",
      ];
    case "automation":
      return ["ok", ...(actions.find((a) => a.key === step.action)?.results.map((r) => r.name) ?? [])];
    case "capture":
      return ["ok"];
    case "check":
      return ["pass", "fail"];
    case "notify":
      return ["sent"];
    case "update":
    case "wait":
      return ["done"];
    case "call":
      return Object.keys(step.ways).filter((e) => e !== "stopped");
    case "escalate":
      return ["accepted"];
    case "stage":
      return ["done", ...leftBy(step), ...(putsBack(step.body.steps) ? ["put back"] : [])];
    case "fork":
      return ["joined", ...leftBy(step)];
    case "for each":
      return ["all ok", "some failed", "none", ...leftBy(step)];
    case "repeat":
      return ["done", "gave up", ...leftBy(step)];
    case "end":
      return [];
  }
}

/** Exits that may lead somewhere; unwired, the run stalls or nothing happens. */
export function optionalExitsOf(step: Step): string[] {
  switch (step.kind) {
    case "task":
      return ["overdue", ...(step.mayLeaveOut || step.leftOutIf ? ["left out"] : [])];
    case "approval":
      return ["lapsed"];
    case "automation":
    case "capture":
    case "stage":
      return ["failed"];
    case "notify":
      return step.room ? [] : ["undelivered"];
    case "check":
      return step.review ? ["measure again", "put back"] : [];
    case "wait":
      return step.condition || step.signal || step.replyOf ? ["timed out"] : [];
    case "call":
      return ["stopped"];
    case "escalate":
      return ["exhausted"];
    case "fork":
      return ["short"];
    default:
      return [];
  }
}

export const waysOf = (step: Step): Record<string, string> => (step.kind === "end" ? {} : step.ways);

export function expectedOf(step: Step, actions: Action[]): string | null {
  const exits = exitsOf(step, actions);
  const wished = step.kind === "end" ? undefined : step.expected;
  return wished && exits.includes(wished) ? wished : (exits[0] ?? null);
}

/** @param folded brackets whose inside is not drawn */
export function routeSteps(version: Version, actions: Action[], folded?: Set<string>): RouteStep[] {
  return ofSteps(version.body.steps, actions, folded);
}

function ofSteps(steps: Step[], actions: Action[], folded?: Set<string>): RouteStep[] {
  return steps.map((step) => {
    const ways = waysOf(step);
    const names = exitsOf(step, actions);
    const wiredOptional = optionalExitsOf(step).filter((e) => ways[e]);
    const extra = Object.keys(ways).filter((e) => !names.includes(e) && !wiredOptional.includes(e));
    const lines = folded?.has(step.id) ? [] : linesOf(step);
    return {
      id: step.id,
      exits: [...names, ...wiredOptional, ...extra].map((name) => ({ name, to: ways[name] ?? null })),
      expected: expectedOf(step, actions),
      lines: lines.map((l) => ({ name: l.name, steps: ofSteps(l.steps, actions, folded) })),
    };
  });
}
