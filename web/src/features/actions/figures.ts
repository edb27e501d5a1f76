import type { ActionNumber, CallFigures } from "../../api/types";

/** A time that a call took: "40 ms", "3.5 s", "4 min". */
export function took(millis: number): string {
  if (millis < 1_000) return `${Math.round(millis)} ms`;
  if (millis < 10_000) return `${Math.round(millis / 100) / 10} s`;
  if (millis < 120_000) return `${Math.round(millis / 1_000)} s`;
  return `${Math.round(millis / 60_000)} min`;
}

/** A share of calls in whole percent; what is not nothing is never said to be. */
export function share(part: number, of: number): string {
  if (part === 0 || of === 0) return "none";
  const percent = (part / of) * 100;
  return percent < 1 ? "below 1 %" : `${Math.round(percent)} %`;
}

/** How calls went, in one line: "214 calls, 2 % failed, usually 40 ms, p95 4 s". */
export function figuresWords(f: CallFigures | undefined): string {
  if (!f || f.calls === 0) return "not called in 30 days";
  const words = [f.calls === 1 ? "1 call" : `${f.calls} calls`, `${share(f.failed, f.calls)} failed`];
  if (f.unsure > 0) words.push(`${share(f.unsure, f.calls)} unsure`);
  if (f.p50 !== undefined && f.p50 !== null) words.push(`usually ${took(f.p50)}`);
  if (f.p95 !== undefined && f.p95 !== null) words.push(`p95 ${took(f.p95)}`);
  return words.join(", ");
}

/** "3", or "3.1" once it was mended. */
export const numberWords = (n: ActionNumber) => (n.mend === 0 ? `${n.version}` : `${n.version}.${n.mend}`);

/** By how many workflows something is used. */
export const usedBy = (n: number) => (n === 0 ? "in no workflow" : n === 1 ? "in 1 workflow" : `in ${n} workflows`);
