import type { Cause, EntryOf, TargetOf } from "../../../api/types";
import { clock, day } from "../../../ui/time";
import { b, changes, type Story, type Tellers, valueRows, who } from "./parts";

/** Where a target of a ticket stands. */
function targetWords(t: TargetOf): string {
  const late = t.missed ? ", too late" : "";
  if (t.metAt) return `met ${day(t.metAt)}, ${clock(t.metAt)}${late}`;
  return t.due ? `until ${day(t.due)}, ${clock(t.due)}${late}` : `stands still, ${t.rest} left${late}`;
}

/** What signals said. */
function heardWords(body: EntryOf<"signalsHeard">["body"]): string {
  switch (body.turn) {
    case "begins":
      return "says";
    case "worse":
      return "says that it got worse";
    case "recovered":
      return "says that it has recovered";
    case "unsteady":
      return "says, as it turns to and fro";
    case "repeats":
      return body.count === 1 ? "says again" : `said ${body.count} times more`;
    case "still in fault":
      return "says that it is well, while another still reports the fault";
    case "nothing to recover":
      return "says that it is well, which nobody had doubted";
    case "out of order":
      return "says what was before the last fault";
    case "news":
      return "says";
  }
}

/** What set off the trigger by which the ticket was opened. */
function causeStory(cause: Cause, who: string): Story {
  switch (cause.is) {
    case "time came":
      return {
        parts: ["Its time had come: ", b(`${day(cause.planned)}, ${clock(cause.planned)}`)],
        sub: cause.late ? `late: ${cause.late}` : undefined,
      };
    case "call":
      return { parts: ["A program called its address"], sub: `call ${cause.call}` };
    case "hand":
      return { parts: [b(who), " started it by hand, as it starts by itself"] };
  }
}

/** Of what happens to the ticket itself, and what starts work on it. */
export const ofTickets: Tellers<
  | "ticketRaised"
  | "ticketChanged"
  | "ciPlanned"
  | "noteAdded"
  | "fileAttached"
  | "signalsHeard"
  | "caused"
  | "recoveryHeard"
  | "markedAsTest"
  | "causeFound"
  | "standsByItself"
  | "triggersLookedAt"
  | "startOffered"
  | "startAnswered"
  | "ticketLinked"
  | "ticketUnlinked"
  | "targetsSet"
  | "targetMissed"
  | "clockReached"
  | "redacted"
> = {
  ticketRaised: ({ body, content, entry, names }) => {
    const { priority, ci, requester } = body.fields as Record<string, string | undefined>;
    return {
      parts: [
        b(who(entry, names)),
        " raised the ticket",
        ...(priority ? [", priority ", b(priority)] : []),
        ...(ci ? [", CI ", b(ci)] : []),
      ],
      sub: requester ? `for ${names.person(requester)}` : undefined,
      quote: content.texts?.description as string | undefined,
    };
  },
  ticketChanged: ({ body, content, entry, names }) => ({
    parts: [b(who(entry, names)), " changed the ticket"],
    sub: content.reason,
    rows: [...changes(body.changes, names), ...changes(content.texts, names)],
  }),
  ciPlanned: ({ body, content, entry, names }) => ({
    parts: [b(who(entry, names)), " wishes for the CI ", b(body.ci)],
    rows: changes(content.ciChanges, names, true),
  }),
  noteAdded: ({ body, content, entry, names }) => ({
    parts: [b(who(entry, names)), body.toRequester ? " wrote for the requester" : " noted"],
    quote: content.text,
  }),
  fileAttached: ({ body, content, entry, names }) => ({
    parts: [b(who(entry, names)), " attached ", b(content.name ?? "a file, since taken off the record")],
    sub: `SHA-256 ${String(body.hash).slice(0, 16)}…${body.toRequester ? " · the requester sees it" : ""}`,
  }),
  signalsHeard: ({ body, content, names }) => ({
    parts: [
      b(names.source ? names.source(body.source) : body.source),
      ` ${heardWords(body)}`,
      ...(content.title ? [": ", b(content.title)] : []),
    ],
    sub:
      [
        body.because === "planned work"
          ? "explained by this work: it opens nothing meanwhile"
          : body.because && "follows from this: it opens nothing meanwhile",
        body.count > 1
          ? `from ${clock(body.first)} to ${clock(body.last)}`
          : body.worst && body.worst !== "cleared"
            ? String(body.worst)
            : undefined,
      ]
        .filter(Boolean)
        .join(" · ") || undefined,
    quote: content.text,
    rows: valueRows(content.values),
    tone: body.turn === "recovered" ? "well" : undefined,
  }),
  caused: ({ body, entry, names }) => causeStory(body.cause, who(entry, names)),
  recoveryHeard: ({ body }) => ({
    parts: [
      `It has been well since ${clock(body.since)}`,
      body.restores ? ", so it is restored" : ": it could be set to restored",
    ],
    tone: "well",
  }),
  markedAsTest: ({ body, names }) => ({
    parts: ["This is a test of ", b(names.person(body.by))],
    detail: `only they are asked and told; what would change something elsewhere waits for them; it ends ${day(body.until)}, ${clock(body.until)}`,
  }),
  causeFound: ({ body }) => ({
    parts: body.folds
      ? ["What it depends on is in fault: it stands under ", b(String(body.cause)), " from now on"]
      : ["What it depends on is in fault: ", b(String(body.cause)), " may have caused it"],
    detail: body.folds
      ? "nobody was at it yet"
      : "somebody is at it, so it stays by itself; link the two if they belong together",
  }),
  standsByItself: ({ body, entry, names }) => ({
    parts: [
      entry.actor.is === "person" ? b(who(entry, names)) : "It stands by itself again",
      entry.actor.is === "person"
        ? ` took it out from under ${body.under}`
        : `: ${body.under} is over for ten minutes, and this is still open`,
    ],
  }),
  triggersLookedAt: ({ body }) =>
    body.started.length > 0
      ? {
          parts: [
            `Looked at ${body.looked} ${body.looked === 1 ? "trigger" : "triggers"}: ${body.started.length} started a workflow`,
          ],
        }
      : {
          parts: [`Looked at ${body.looked} ${body.looked === 1 ? "trigger" : "triggers"}: none started a workflow`],
        },
  startOffered: ({ body }) => ({
    parts: [
      body.asked.groups.length + body.asked.people.length > 0 ? "Asked whether to start " : "Offered to start ",
      b(body.name),
    ],
  }),
  startAnswered: ({ body, content, entry, names }) => ({
    parts: [b(who(entry, names)), body.starts ? " said to start " : " said not to start ", b(body.name)],
    quote: content.reason,
  }),
  ticketLinked: ({ body, entry, names }) => ({
    parts: [b(who(entry, names)), ` linked it: ${body.as} `, b(body.other)],
  }),
  ticketUnlinked: ({ body, entry, names }) => ({
    parts: [b(who(entry, names)), ` took the link away: ${body.as} `, b(body.other)],
  }),
  targetsSet: ({ body }) => ({
    parts: ["The clocks: ", body.why],
    rows: Object.entries(body.targets).map(([of, t]) => [of, targetWords(t)]),
  }),
  targetMissed: ({ body }) => ({ parts: [`The time to ${body.of} `, b("is over", true)], tone: "late" }),
  clockReached: ({ body }) => ({ parts: [b(`${body.percent} %`), ` of the time to ${body.of} has passed`] }),
  redacted: ({ body, content, entry, names }) => ({
    parts: [b(who(entry, names)), ` took the content of entry ${body.seq} away`],
    quote: content.reason,
  }),
};
