import { assignedWords } from "../words";
import { b, type Names, type Tellers, valueRows, who } from "./parts";

/** A field by the name that people know. */
function label(field: string, names: Names): string {
  return names.directory?.fields.find((f) => f.name === field)?.label ?? field;
}

/** Of desks of others. */
export const ofPartners: Tellers<
  | "partnerJoined"
  | "partnerLeft"
  | "partnerDiffers"
  | "differenceSettled"
  | "saidToPartner"
  | "partnerSaid"
  | "partnerTold"
> = {
  partnerJoined: ({ body, names }) => ({
    parts: [
      body.theirs ? "It is followed here as " : "It is followed there as ",
      b(body.id),
      ` of ${names.source ? names.source(body.partner) : body.partner}`,
    ],
  }),
  partnerLeft: ({ body }) => ({ parts: ["It is no longer followed there: ", b(body.why)], tone: "late" }),
  partnerDiffers: ({ body, content, names }) => ({
    parts: [
      b(`${label(body.field, names)}: they see it otherwise`),
      ` — we say ${content.ours ?? "nothing"}, they say ${content.word ?? "something that was taken away"}`,
    ],
    sub: `${body.why} Asked: ${assignedWords(body.asked, names)}`,
    tone: "late",
  }),
  differenceSettled: ({ body, content, entry, names }) =>
    body.way === "gone"
      ? { parts: [b(label(body.field, names)), ": both say the same again"], tone: "well" }
      : {
          parts: [b(who(entry, names)), ` said that ${body.way} counts: `, b(label(body.field, names))],
          quote: content.reason,
          tone: "well",
        },
  saidToPartner: ({ body, content, entry, names }) => ({
    parts: [b(who(entry, names)), ` said to ${names.source ? names.source(body.partner) : body.partner}`],
    quote: content.text,
  }),
  partnerSaid: ({ body, content, entry, names }) => ({
    parts: [b(content.by ?? who(entry, names)), ` said at ${names.source ? names.source(body.partner) : body.partner}`],
    quote: content.text,
  }),
  partnerTold: ({ body, content }) =>
    content.problem
      ? {
          parts: ["It did not come there: ", b(content.problem, true)],
          rows: valueRows(content.values),
          tone: "late",
        }
      : {
          parts: [body.entry ? `They have what was said in entry ${body.entry}` : "They were told"],
          rows: valueRows(content.values),
        },
};
