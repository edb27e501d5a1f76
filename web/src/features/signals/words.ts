import type { Aside, Foreseen, Matter, SignalLine } from "../../api/types";
import { clock, sameDay } from "../../ui/time";

/** Whether a matter asks for somebody: in fault with nobody about it and nothing that explains it, or turning to and fro. */
export const needsSomebody = (m: Matter): boolean =>
  m.aside === undefined && (m.unsteadyUntil !== undefined || (m.inFault.length > 0 && m.ticket === undefined));

/** Why a fault opens nothing of its own for now; the ticket's number stands before it. */
export function asideWords(aside: Aside): string {
  if (aside.over) return `explained it until ${clock(aside.over)}; it is judged by itself ten minutes after`;
  return aside.because === "planned work" ? "explains it: planned work" : "explains it: it follows from that";
}

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

/** What would become of a signal if it came now. */
export function foreseenWords(f: Foreseen): string {
  const starts = f.looks.filter((l) => l.started).map((l) => l.name);
  const and = starts.length > 0 ? ` and start ${starts.join(", ")}` : "";
  switch (f.does) {
    case "taken":
      return `A step of ${f.ticket} waits for it and would take it.`;
    case "joined":
      return `It would join ${f.ticket}${and}.`;
    case "noted":
      return `It would be noted on ${f.ticket}, which explains it, and open nothing.`;
    case "opened":
      return `It would open ${f.kind === "incident" ? "an incident" : `a ${f.kind}`}${and}.`;
    case "kept":
      return `It would be kept: ${f.why}${starts.length > 0 ? `; it would start ${starts.join(", ")}` : ""}.`;
  }
}

/** What became of a signal, as a sentence's part. */
export function becameWords(line: SignalLine): string {
  switch (line.state) {
    case "received":
      return "not looked at yet";
    case "opened":
      return line.ticket ? `opened ${line.ticket}` : "opened a ticket";
    case "joined":
      return line.ticket ? `joined ${line.ticket}` : "joined a ticket";
    case "noted":
      return line.ticket ? `noted on ${line.ticket}` : "noted";
    case "taken":
      return "told a step that waited for it";
    case "not understood":
      return `not understood: ${line.problem ?? "nobody knows why"}`;
    default:
      return line.problem ?? "kept";
  }
}

/** Where a matter stands in the list: what somebody may have to do with, what another ticket explains, what is well again. */
type Group = "live" | "explained" | "over";

/** A matter in the list, where it stood when somebody began to look. */
interface Placed {
  key: string;
  group: Group;
}

const groupOf = (m: Matter): Group => {
  if (m.inFault.length === 0 && !needsSomebody(m)) return "over";
  return m.aside ? "explained" : "live";
};

/** Where each stands when somebody begins to look. */
export const placed = (all: Matter[]): Placed[] => all.map((m) => ({ key: m.key, group: groupOf(m) }));

/**
 * The matters as they stood when somebody began to look, each as it is now: none jumps away under the hand.
 *
 * @returns besides, what has come since, and what would stand with the others now
 */
export function steadyOrder(all: Matter[], shown: Placed[]): Record<Group | "fresh" | "turned", Matter[]> {
  const byKey = new Map(all.map((m) => [m.key, m]));
  const standing = (group: Group) => shown.filter((p) => p.group === group).flatMap((p) => byKey.get(p.key) ?? []);
  const there = new Map(shown.map((p) => [p.key, p.group]));
  return {
    live: standing("live"),
    explained: standing("explained"),
    over: standing("over"),
    fresh: all.filter((m) => !there.has(m.key)),
    turned: all.filter((m) => there.has(m.key) && there.get(m.key) !== groupOf(m)),
  };
}

/** What has changed since somebody looks, of which the list does not tell by its order yet. */
export function sinceWords(fresh: number, turned: number): string {
  const more = fresh === 1 ? "One more matter" : `${fresh} more matters`;
  const other = turned === 1 ? "one has turned" : `${turned} have turned`;
  if (fresh === 0)
    return turned === 1 ? "One matter has turned since you look" : `${turned} matters have turned since you look`;
  return turned === 0 ? `${more} since you look` : `${more} since you look, ${other}`;
}
