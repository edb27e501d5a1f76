import type { Matter, SignalLine } from "../../api/types";
import { clock, sameDay } from "../../ui/time";

/** Whether a matter asks for somebody: in fault with nobody about it, or turning to and fro. */
export const needsSomebody = (m: Matter): boolean =>
  m.unsteadyUntil !== undefined || (m.inFault.length > 0 && m.ticket === undefined);

/** How a matter stands, in a word or two. */
export function standsWords(m: Matter): string {
  if (m.unsteadyUntil) return `turns to and fro; judged again at ${clock(m.unsteadyUntil)} if it is calm until then`;
  if (m.inFault.length > 0) return `${m.worst ?? "in fault"}, says ${m.inFault.join(" and ")}`;
  return "well again";
}

/** How loud it is: what nobody takes care of, what is in fault, what is over. */
export function toneOf(m: Matter): "late" | "soon" | "plain" {
  if (needsSomebody(m)) return "late";
  return m.inFault.length > 0 ? "soon" : "plain";
}

export const countWords = (n: number): string => (n === 1 ? "1 signal" : `${n} signals`);

/** A time of day, with the day where it is another. */
export const at = (iso: string, now: number): string =>
  sameDay(iso, new Date(now).toISOString()) ? clock(iso) : `${iso.slice(8, 10)}.${iso.slice(5, 7)}. ${clock(iso)}`;

/** What became of a signal, as a sentence's part. */
export function becameWords(line: SignalLine): string {
  switch (line.state) {
    case "received":
      return "not looked at yet";
    case "opened":
      return line.ticket ? `opened ${line.ticket}` : "opened a ticket";
    case "joined":
      return line.ticket ? `joined ${line.ticket}` : "joined a ticket";
    case "taken":
      return "told a step that waited for it";
    case "not understood":
      return `not understood: ${line.problem ?? "nobody knows why"}`;
    default:
      return line.problem ?? "kept";
  }
}

/**
 * Matters in an order that stays under the hand: those that are shown keep their places, what is new stands apart until
 * somebody asks for it.
 *
 * @param shown keys in the order in which they stand
 */
export function steadyOrder(all: Matter[], shown: string[]): { matters: Matter[]; fresh: Matter[] } {
  const byKey = new Map(all.map((m) => [m.key, m]));
  const matters = shown.map((k) => byKey.get(k)).filter((m) => m !== undefined);
  const there = new Set(shown);
  return { matters, fresh: all.filter((m) => !there.has(m.key)) };
}
