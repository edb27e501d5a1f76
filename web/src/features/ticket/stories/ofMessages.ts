import { clock, day, sameDay } from "../../../ui/time";
import { b, type Tellers, who } from "./parts";

/** What a message is, by its purpose. */
const MESSAGES: Record<string, string> = {
  reminder: "Reminder",
  withdrawn: "Word",
  "call-in": "Call-in",
  keeper: "Word",
  escalation: "Escalation",
  decision: "Asked for a decision,",
  task: "Told of what is theirs,",
};

/** By what a message came, from what the server that took it calls it. */
function deliveredBy(reference: string): string {
  const chat = reference.startsWith("chat ");
  return chat && reference.includes("mail ") ? "Chat and mail" : chat ? "Chat" : "Mail";
}

/** When and where calendars were told that it is, or that it is not. */
const meetingWords = (m: { from?: string; until?: string; place?: string }): string =>
  m.from && m.until
    ? `in calendars: ${day(m.from)}, ${clock(m.from)} until ${
        sameDay(m.from, m.until) ? "" : `${day(m.until)}, `
      }${clock(m.until)}${m.place ? `, ${m.place}` : ""}`
    : "called off in calendars";

/** Of what is said to people and in rooms. */
export const ofMessages: Tellers<
  | "messageQueued"
  | "messageDelivered"
  | "messageResent"
  | "messageFailed"
  | "roomTold"
  | "roomOpened"
  | "roomTalked"
  | "roomFailed"
> = {
  messageQueued: ({ body, content, names }) => ({
    parts: [`${MESSAGES[body.purpose] ?? "Mail"} to `, b(body.people.map(names.person).join(", ") || "nobody")],
    sub: [content.subject, content.meeting && meetingWords(content.meeting)].filter(Boolean).join(" · ") || undefined,
    quote: content.text || undefined,
  }),
  messageDelivered: ({ body, names }) => ({
    parts: [`${deliveredBy(String(body.reference ?? ""))} delivered to `, b(names.person(body.person))],
  }),
  messageResent: ({ body, entry, names }) => ({
    parts: [b(who(entry, names)), " sent it to ", b(names.person(body.person)), " once more"],
  }),
  messageFailed: ({ body, content, names }) => ({
    parts: ["Mail to ", b(names.person(body.person)), " could ", b("not be delivered", true)],
    quote: content.why,
    sub: `${body.tries} tries`,
    tone: "late",
  }),
  roomTold: ({ body, content, names }) => ({
    parts: ["Said in the room ", b(content.name ?? "of this ticket")],
    sub: body.invited.length ? `invited: ${body.invited.map(names.person).join(", ")}` : undefined,
    quote: content.text,
  }),
  roomOpened: ({ body, content }) => ({
    parts: ["The room ", b(content.name ?? body.room), " is open"],
    sub: body.keepsAll ? "all that is said there comes onto the record" : "what is marked there comes onto the record",
  }),
  roomTalked: ({ body, content, names }) => ({
    parts: [b(`${body.lines} ${body.lines === 1 ? "line" : "lines"}`), " in the room"],
    rows: (content.said ?? []).map((l): [string, string] => [l.by ? names.person(l.by) : l.name, l.text]),
  }),
  roomFailed: ({ content }) => ({
    parts: ["Could ", b("not be said in the room", true)],
    quote: content.why,
    tone: "late",
  }),
};
