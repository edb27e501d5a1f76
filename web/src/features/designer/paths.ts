import type { Action, Catalogue, Field, Step, Version } from "../../api/types";
import { allSteps } from "../../route/ofVersion";
import { fieldWords } from "./conditionWords";

/** Something a value can be taken from. */
export interface Known {
  path: string;
  /** What people call it. */
  says: string;
  /** What it can be; undefined where that is not known. */
  field?: Pick<Field, "type" | "choices">;
}

/** What steps of a kind give besides what their forms and actions do. */
const GIVES: Partial<Record<string, [string, string][]>> = {
  task: [
    ["note", "the note"],
    ["by", "who did it"],
  ],
  approval: [
    ["comment", "the comment"],
    ["by", "who decided"],
    ["conditions", "the conditions"],
  ],
  automation: [["error", "what went wrong"]],
  capture: [["error", "what went wrong"]],
  "for each": [
    ["count", "how many there were"],
    ["succeeded", "how many went well"],
    ["failed", "how many failed"],
    ["items", "what became of each"],
  ],
  check: [
    ["tries", "how often it was measured"],
    ["held", "which rules held"],
    ["rules", "the rules"],
    ["sideEffects", "side effects"],
    ["by", "who reviewed it"],
    ["comment", "the comment"],
  ],
  escalate: [["by", "who answered"]],
  repeat: [["rounds", "how many rounds"]],
};

const YES_OR_NO: Known["field"] = { type: "yes or no" };

/** The ways to leave a step, where it names them itself. */
const outcomes = (s: Step): Known["field"] => (s.kind === "task" ? { type: "text", choices: s.outcomes } : undefined);

/** All that conditions on signals can read. */
export function signalPaths(catalogue: Catalogue | undefined): Known[] {
  const label = (path: string) => catalogue?.signalPaths?.find((p) => p.path === path)?.field.label;
  return (catalogue?.signalPaths ?? []).map((p) => {
    const says = fieldWords(p.path, label);
    return { path: p.path, says: says.charAt(0).toUpperCase() + says.slice(1), field: choicesOf(p.path) ?? p.field };
  });
}

/** Where there is only a choice of words. */
function choicesOf(path: string): Known["field"] | undefined {
  if (path === "signal.severity")
    return { type: "choice", choices: ["critical", "major", "minor", "warning", "indeterminate"] };
  return path === "signal.sort" ? { type: "choice", choices: ["fault", "recovered", "news"] } : undefined;
}

/** All a value can be taken from at a version's steps, in words, in the order in which it comes to be. */
export function knownPaths(version: Version | undefined, catalogue: Catalogue | undefined): Known[] {
  const label = (path: string) => catalogue?.paths.find((p) => p.path === path)?.field.label;
  const upper = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);
  const outside = (catalogue?.paths ?? []).map((p) => ({
    path: p.path,
    says: upper(fieldWords(p.path, label)),
    field: p.field,
  }));
  if (!version) return outside;
  const outputs = (key: string): Action["outputs"] => catalogue?.actions.find((a) => a.key === key)?.outputs ?? [];
  return [
    ...version.startForm.map((f) => ({ path: `input.${f.name}`, says: `${f.label} (asked at the start)`, field: f })),
    ...version.vars.map((v) => ({ path: `vars.${v.name}`, says: `${v.label || v.name} (kept aside)`, field: v })),
    ...Object.keys(version.conditions).map((name) => ({
      path: `is.${name}`,
      says: `Whether “${name}”`,
      field: YES_OR_NO,
    })),
    ...allSteps(version.body.steps).flatMap((s) => {
      const own: [string, string, Known["field"]?][] = [
        ...(s.kind === "task" ? (s.form ?? []).map((f): [string, string, Known["field"]] => [f.name, f.label, f]) : []),
        ...(s.kind === "automation" || s.kind === "capture"
          ? outputs(s.action).map((o): [string, string, Known["field"]] => [o.field.name, o.field.label, o.field])
          : []),
        ...(GIVES[s.kind] ?? []),
        ["outcome", "how it was left", outcomes(s)],
      ];
      return own.map(([name, says, field]) => ({
        path: `steps.${s.id}.${name}`,
        says: `${upper(says)} (${s.name})`,
        field,
      }));
    }),
    ...outside,
  ];
}

/** What a path is called there; a path that nobody knows stands for itself. */
export function pathWords(known: Known[]): (path: string) => string {
  const says = new Map(known.map((k) => [k.path, k.says]));
  return (path) => says.get(path) ?? fieldWords(path);
}
