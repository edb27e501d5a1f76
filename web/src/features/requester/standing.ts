import type { Asked } from "../../api/types";

/** The stations that those who ask are shown, in the order of the expected way, by kind of ticket. */
const STATIONS: Record<Asked["kind"], string[]> = {
  incident: ["received", "being looked at", "works again", "closed"],
  request: ["received", "in hand", "done", "closed"],
  routine: ["under way", "over"],
  change: ["drafted", "decided", "under way", "looked back at", "closed"],
};

/** At which station a state stands; what is left out ended otherwise. */
const AT: Record<string, number> = {
  logged: 0,
  diagnosing: 1,
  restored: 2,
  asked: 0,
  "in hand": 1,
  done: 2,
  drafted: 0,
  assessing: 0,
  authorised: 1,
  scheduled: 1,
  implementing: 2,
  reviewing: 3,
};

/** How what ended otherwise is told. */
const OTHERWISE: Record<string, string> = {
  cancelled: "called off",
  refused: "declined",
  "backed out": "taken back",
};

/** The stations, and at which one it is; undefined for what ended otherwise than hoped. */
export function stations(line: Pick<Asked, "kind" | "state">): { names: string[]; at: number } | undefined {
  const names = STATIONS[line.kind];
  // While it waits, somebody has looked at it already.
  const at = line.state === "closed" ? names.length - 1 : line.state === "waiting" ? 1 : AT[line.state];
  return at === undefined ? undefined : { names, at };
}

const list = (names: string[]) =>
  names.length < 2 ? names.join("") : `${names.slice(0, -1).join(", ")} or ${names.at(-1)}`;

/** What happens next, in plain words. @param when how a moment is said */
export function nextWords(line: Asked, when: (at: string) => string): string[] {
  if (line.ended) return [`${OTHERWISE[line.state] ?? "closed"} ${when(line.updatedAt)}`];
  if (line.maySay.includes("solved")) return ["It is said to be done. Is it?"];
  const said = line.next.map((n) => {
    const until = n.due ? (n.what === "decision" ? `, by ${when(n.due)}` : `, until ${when(n.due)}`) : "";
    switch (n.what) {
      case "decision":
        return `To be decided by ${list(n.who)}${until}.`;
      case "machine":
        return "A machine is at work on it.";
      case "stalled":
        return "It is stuck; those who look after it know.";
      default:
        return `With ${list(n.who)}${until}.`;
    }
  });
  if (said.length > 0) return [...new Set(said)];
  return [line.state === "waiting" ? "It waits." : "The desk has it."];
}
