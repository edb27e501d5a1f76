import type { Run, Step } from "../../api/types";
import { waysOf } from "../../route/ofVersion";

/** What somebody may do to a run that may be well. */
export type Kind = "hold" | "resume" | "skip" | "re-run from" | "move to version" | "stop run" | "stop and put back";

/** What each does, in general. */
export const WHAT_IT_DOES: Record<Kind, string> = {
  hold: "Nothing further opens, clocks stand still, and answers are refused until somebody resumes it. A machine at work finishes; its result is kept.",
  resume: "It goes on where it stood. What was due while it was held is due later by that long.",
  skip: "The step is left by the exit you name, as if it had ended so. Whoever has it on the desk loses it.",
  "re-run from":
    "What is open is withdrawn and the run stands before that step again. What it found since then is forgotten, and inputs are taken anew; what it changed in the world stays as it is.",
  "move to version": "It goes on with that version from where it stands. Due times that were set stay.",
  "stop run": "What is open is withdrawn and the run ends. What it changed in the world stays as it is.",
  "stop and put back":
    "What is open is withdrawn; then what it changed is undone, the last first, as the workflow says.",
};

const quoted = (names: string[]) => names.map((n) => `“${n}”`).join(", ");

/**
 * What it would do to this run, by the names of its steps.
 *
 * @param chosen the step and exit of a skip, the step of a re-run
 */
export function consequences(
  kind: Kind,
  run: Pick<Run, "visits" | "offForNow">,
  steps: Map<string, Step>,
  chosen: { step?: string; exit?: string } = {},
): string[] {
  const name = (id: string) => steps.get(id)?.name ?? id;
  // Brackets hold what is open inside them; naming the inner steps says enough.
  const open = run.visits.filter((v) => !v.endedAt && !isBracket(steps.get(v.step))).map((v) => name(v.step));
  const withdrawn = open.length ? [`Withdrawn: ${quoted(open)}.`] : [];
  switch (kind) {
    case "hold":
      return open.length ? [`Standing still: ${quoted(open)}.`] : [];
    case "resume":
      return open.length ? [`Going on: ${quoted(open)}.`] : [];
    case "skip": {
      const at = chosen.step ? steps.get(chosen.step) : undefined;
      const next = at && chosen.exit ? waysOf(at)[chosen.exit] : undefined;
      return next ? [`Next comes ${quoted([name(next)])}.`] : [];
    }
    case "re-run from": {
      if (!chosen.step) return withdrawn;
      const first = run.visits.findIndex((v) => v.step === chosen.step);
      const forgotten = first < 0 ? [] : run.visits.slice(first).filter((v) => v.endedAt && v.exit !== "withdrawn");
      const names = [...new Set(forgotten.map((v) => name(v.step)))];
      return [
        ...withdrawn,
        ...(names.length ? [`Forgotten: what ${quoted(names)} found.`] : []),
        `Goes on at ${quoted([name(chosen.step)])}.`,
      ];
    }
    case "move to version":
      return [];
    case "stop run":
      return [...withdrawn, ...offStays(run.offForNow, name)];
    case "stop and put back": {
      const undone = run.visits
        .filter((v) => v.endedAt && v.exit !== "withdrawn" && v.exit !== "failed" && hasPutBack(steps.get(v.step)))
        .map((v) => name(v.step))
        .reverse();
      return [...withdrawn, undone.length ? `Undone, in this order: ${quoted(undone)}.` : "There is nothing to undo."];
    }
  }
}

const offStays = (off: string[], name: (id: string) => string) =>
  off.length ? [`Stays switched off: ${quoted(off.map(name))}. To switch it on again, stop and put back.`] : [];

const isBracket = (step: Step | undefined) =>
  step !== undefined && ["stage", "fork", "for each", "repeat"].includes(step.kind);

const hasPutBack = (step: Step | undefined) => step?.kind === "automation" && step.putBack !== undefined;
