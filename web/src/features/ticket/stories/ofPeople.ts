import { clock, span } from "../../../ui/time";
import { fieldWords } from "../../designer/conditionWords";
import { assignedWords, deedWords, valueWords } from "../words";
import { b, changes, doer, type Names, type Tellers, valueRows, who } from "./parts";

/** What a path is called at the beginning of a line, as it was called to whoever was asked. */
function pathWords(path: string, names: Names): string {
  const name = path.slice(path.indexOf(".") + 1);
  const fields = path.startsWith("ci.") ? names.directory?.ciFields : names.directory?.fields;
  const words = fieldWords(path, () => fields?.find((f) => f.name === name)?.label);
  const ofCi = /^the CI’s (.)(.*)$/.exec(words);
  if (ofCi) return `CI: ${ofCi[1]?.toUpperCase()}${ofCi[2]}`;
  return words === path ? path : words.charAt(0).toUpperCase() + words.slice(1);
}

/** Of what people are asked and answer. */
export const ofPeople: Tellers<
  | "taskOffered"
  | "taskClaimed"
  | "taskPassedOn"
  | "taskHandedBack"
  | "taskTakenBack"
  | "taskDone"
  | "helpAsked"
  | "cameTooLate"
  | "lateSettled"
  | "approvalAsked"
  | "approvalTurn"
  | "askedBack"
  | "answeredBack"
  | "voteCast"
  | "voteWithdrawn"
  | "approvalVoided"
  | "approvalClosed"
  | "callInBegan"
  | "callInAnswered"
  | "rungFired"
> = {
  taskOffered: ({ body, content, names }) => ({
    parts: ["Task for ", b(assignedWords(body.to, names)), `: ${body.name}`],
    sub: body.due ? `due ${clock(body.due)}` : "no time set",
    quote: content.instructions,
  }),
  taskClaimed: ({ entry, names }) => ({ parts: [b(doer(entry, names)), " claimed it"] }),
  taskPassedOn: ({ body, content, entry, names }) => ({
    parts: [b(doer(entry, names)), " passed it on to ", b(assignedWords(body.to, names))],
    quote: content.reason,
  }),
  taskHandedBack: ({ entry, names }) => ({ parts: [b(doer(entry, names)), " handed it back"] }),
  taskTakenBack: ({ body, entry, names }) => ({ parts: [b(doer(entry, names)), " took back: ", b(body.exit)] }),
  taskDone: ({ body, content, entry, names }) => ({
    parts: [b(doer(entry, names)), body.asOverseer ? " as overseer: " : ": ", b(body.exit)],
    quote: content.note,
    rows: valueRows(content.form),
    tone: "well",
  }),
  helpAsked: ({ body, content, entry, names }) => ({
    parts: [b(doer(entry, names)), " asked ", b(assignedWords(body.to, names)), " to help"],
    quote: content.text,
  }),
  cameTooLate: ({ body, entry, names }) => ({
    parts: [b(doer(entry, names)), ` answered too late: the ${body.what} was closed already`],
  }),
  lateSettled: ({ content, entry, names }) => ({
    parts: [b(who(entry, names)), " looked at what came too late"],
    quote: content.note,
  }),
  approvalAsked: ({ body, content, names }) => ({
    parts: ["Asked for approval: ", b(body.name), ...(body.round > 1 ? [` (round ${body.round})`] : [])],
    sub: `${body.electorate.map(names.person).join(", ")} · ${body.rule}`,
    quote: content.question,
    rows: Object.entries(content.values ?? {}).map(([path, v]): [string, string, unknown] => [
      pathWords(path, names),
      valueWords(v),
      v,
    ]),
  }),
  approvalTurn: ({ body, names }) => ({
    parts: ["Now it is the turn of ", b(body.people.map((p) => names.person(p)).join(", "))],
  }),
  askedBack: ({ content, entry, names }) => ({
    parts: [b(doer(entry, names)), " asks before deciding; the clocks stand still"],
    quote: content.text,
  }),
  answeredBack: ({ body, content, entry, names }) => ({
    parts: [b(who(entry, names)), " answered; the clocks run on"],
    sub: body.pausedSeconds > 0 ? `they stood still for ${span(body.pausedSeconds * 1000)}` : undefined,
    quote: content.text,
  }),
  voteCast: ({ body, content, entry, names }) => ({
    parts: [
      b(doer(entry, names)),
      body.yes ? " approved" : " declined",
      ...(content.condition ? [" on the condition: ", b(content.condition)] : []),
    ],
    quote: content.comment,
    tone: body.yes ? "well" : "late",
  }),
  voteWithdrawn: ({ entry, names }) => ({ parts: [b(doer(entry, names)), " took their vote back"] }),
  approvalVoided: ({ content, names }) => ({
    parts: ["What was shown has changed; the approval is void and is asked again"],
    rows: changes(content.values, names),
    tone: "late",
  }),
  approvalClosed: ({ body }) => ({
    parts: [b(body.exit, body.exit !== "approved")],
    sub: `${body.yes} for, ${body.no} against, of ${body.electorate}`,
    tone: body.exit === "approved" ? "well" : "late",
  }),
  callInBegan: ({ body, content }) => ({
    parts: ["Calls people in: ", b(body.name), ...(body.as ? [" as ", b(body.as)] : [])],
    quote: content.message,
  }),
  callInAnswered: ({ body, entry, names }) => ({
    parts: [
      b(doer(entry, names)),
      body.accepted ? " is coming" : " cannot come",
      ...(body.as ? [" as ", b(body.as)] : []),
    ],
    tone: body.accepted ? "well" : undefined,
  }),
  rungFired: ({ body, names }) => ({
    parts: [`Rung ${body.rung}${body.late ? " (late)" : ""}: `, b(deedWords(body.deed, names))],
    sub: body.handedTo
      ? `now with ${assignedWords(body.handedTo, names)}`
      : body.needed
        ? `${body.needed} must say yes now`
        : undefined,
  }),
};
