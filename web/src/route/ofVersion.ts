import type { Action, Step, Version } from "../api/types";
import type { RouteStep } from "./layout";

/** The exits of a step that must lead somewhere, in order. */
export function exitsOf(step: Step, actions: Action[]): string[] {
  switch (step.kind) {
    case "task":
      return step.outcomes;
    case "approval":
      return ["approved", "declined"];
    case "branch":
      return [...step.cases.map((c) => c.name), "otherwise"];
    case "automation":
      return ["ok", ...(actions.find((a) => a.key === step.action)?.results.map((r) => r.name) ?? [])];
    case "notify":
      return ["sent"];
    case "update":
    case "wait":
      return ["done"];
    case "end":
      return [];
  }
}

/** Exits that may lead somewhere; unwired, the run stalls or nothing happens. */
export function optionalExitsOf(step: Step): string[] {
  switch (step.kind) {
    case "task":
      return ["overdue"];
    case "approval":
      return ["lapsed"];
    case "automation":
      return ["failed"];
    case "notify":
      return ["undelivered"];
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

export function routeSteps(version: Version, actions: Action[]): RouteStep[] {
  return version.body.steps.map((step) => {
    const ways = waysOf(step);
    const names = exitsOf(step, actions);
    const wiredOptional = optionalExitsOf(step).filter((e) => ways[e]);
    const extra = Object.keys(ways).filter((e) => !names.includes(e) && !wiredOptional.includes(e));
    return {
      id: step.id,
      exits: [...names, ...wiredOptional, ...extra].map((name) => ({ name, to: ways[name] ?? null })),
      expected: expectedOf(step, actions),
    };
  });
}
