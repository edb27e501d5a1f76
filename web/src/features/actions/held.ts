import type { Held } from "../../api/types";
import { moment } from "../../ui/time";

/** That calls over a connection wait: since when, for whom or until when, and why. */
export function heldWords(
  connection: string,
  held: Held,
  now: number,
  names: { person: (id?: string) => string },
): string {
  const since = `Calls over ${connection} wait since ${moment(held.since, now)}`;
  if (held.byHand) return `${since}: ${names.person(held.byHand.by)} holds them back. ${held.byHand.why}`;
  if (held.until && Date.parse(held.until) > now)
    return `${since}: too many had no answer. One goes out to see at ${moment(held.until, now)}.`;
  return `${since}: too many had no answer. The next one goes out to see.`;
}
