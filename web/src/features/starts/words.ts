import type { ScheduleTurn } from "../../api/types";

/** What became of a time, in words. @param tone how it is to be looked at */
export function turnWords(turn: ScheduleTurn): { words: string; tone: "plain" | "late" | "soon" | "well" } {
  switch (turn.verdict) {
    case "missed":
      return {
        words: turn.count > 1 ? `${turn.count} times missed: nothing ran then` : "missed: nothing ran then",
        tone: "soon",
      };
    case "skipped":
      return {
        words:
          turn.count > 1
            ? `${turn.count} times skipped: the one before was under way`
            : "skipped: the one before was under way",
        tone: "plain",
      };
    case "refused":
      return { words: `could not start: ${turn.note ?? ""}`, tone: "late" };
    default:
      return {
        words: `${stateWords(turn.state)}${turn.note ? `, late: ${turn.note}` : ""}`,
        tone: turn.state === "failed" ? "late" : turn.state === "stopped" ? "soon" : "well",
      };
  }
}

/** How what was started stands. */
export function stateWords(state: string | undefined): string {
  if (state === undefined) return "started";
  return state === "under way" || state === "finished" || state === "failed" || state === "stopped"
    ? state
    : `started, now ${state}`;
}

/** How what a watch saw is to be looked at. */
export const saidTone = (said: string | undefined) =>
  said === "holds" ? "text-soon font-semibold" : said === "could not be read" ? "text-late font-semibold" : "";

/** What a reading says. */
export const saidWords = (said: string) => (said === "does not hold" ? "nothing to do" : said);

/**
 * What was read last, in words.
 * @param values as JSON
 * @param extremes between what its numbers lay, said where a number was not the same all the time
 */
export function valuesWords(values: string, extremes: Record<string, Range> = {}): string {
  return Object.entries(JSON.parse(values) as Record<string, unknown>)
    .filter(([, v]) => typeof v !== "object")
    .map(([k, v]) => `${k} ${String(v)}${between(extremes[k])}`)
    .join(", ");
}

interface Range {
  least: number;
  most: number;
}

const between = (range?: Range) => (range && range.least !== range.most ? ` (${range.least} to ${range.most})` : "");
