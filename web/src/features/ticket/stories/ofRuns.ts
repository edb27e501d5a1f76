import type { EntryOf } from "../../../api/types";
import { clock, day } from "../../../ui/time";
import { conditionWords } from "../../designer/conditionWords";
import { assignedWords, valueWords } from "../words";
import { b, changes, conditionRow, doer, type Tellers, valueRows, who } from "./parts";

const BRACKET_WORDS: Record<string, (body: EntryOf<"bracketOpened">["body"]) => string> = {
  stage: () => "begins",
  fork: (x) => `${x.count} lines side by side${x.needed < x.count ? `, until the first ${x.needed} are done` : ""}`,
  "for each": (x) =>
    `${x.count} ${x.count === 1 ? "item" : "items"}${x.atOnce > 1 ? `, ${x.atOnce} at a time` : ", one after the other"}`,
  repeat: (x) => `at most ${x.count} rounds`,
};

/** An item of a list in a line: its values, or itself. */
function itemWords(item: unknown): string {
  return item !== null && typeof item === "object" && !Array.isArray(item)
    ? Object.entries(item)
        .map(([k, v]) => `${k} ${valueWords(v)}`)
        .join(" · ")
    : valueWords(item);
}

/** Why a workflow left a task out: its condition in words. */
const leftOutWords = (reason?: string) =>
  reason?.startsWith("because ") ? `because ${conditionWords(reason.slice("because ".length))}` : reason;

/** Of how a run goes on. */
export const ofRuns: Tellers<
  | "runStarted"
  | "runEnded"
  | "taskLeftOut"
  | "bracketOpened"
  | "lineBegan"
  | "lineEnded"
  | "roundJudged"
  | "bracketLeft"
  | "conditionMet"
  | "signalCame"
  | "replyCame"
  | "putBackBegan"
  | "putBackEnded"
  | "workflowCalled"
  | "calledEnded"
  | "workflowSent"
  | "sentRunBegan"
  | "sentRunEnded"
  | "sentRunRecalled"
  | "branched"
  | "updated"
  | "waitBegan"
  | "left"
  | "ended"
  | "stalled"
  | "intervened"
  | "withdrawn"
> = {
  runStarted: ({ body, entry, names }) => ({
    parts: [b(body.name), ` version ${body.version} started`],
    sub: body.trigger ? "by a trigger" : `by ${who(entry, names)}`,
  }),
  runEnded: ({ body, content }) => ({
    parts: ["The run ended: ", b(body.result, body.stopped)],
    sub: body.stillOff ? `still switched off: ${body.stillOff.join(", ")}` : undefined,
    rows: valueRows(content.results),
    tone: body.stillOff ? "late" : undefined,
  }),
  taskLeftOut: ({ body, content, entry, names }) => ({
    parts: [body.by ? b(doer(entry, names)) : "The workflow", " left it out; went on by ", b(body.exit)],
    quote: body.by ? content.reason : leftOutWords(content.reason),
  }),
  bracketOpened: ({ body, content }) => ({
    parts: [b(body.name), ": ", BRACKET_WORDS[body.bracket]?.(body) ?? body.bracket],
    rows: (content.items ?? []).slice(0, 20).map((item, i): [string, string] => [String(i + 1), itemWords(item)]),
  }),
  lineBegan: ({ body }) => ({ parts: [`Number ${body.index + 1} began`] }),
  lineEnded: ({ body }) => ({
    parts: [`Number ${body.index + 1} `, b(body.done ? "is done" : "has failed", !body.done)],
    sub: body.result,
    tone: body.done ? undefined : "late",
  }),
  roundJudged: ({ body, content, names }) => ({
    parts: [`Round ${body.round}: `, b(body.holds ? "the condition holds" : "the condition does not hold yet")],
    rows: content.condition ? [conditionRow(content.condition, names)] : [],
  }),
  bracketLeft: ({ body }) => ({ parts: ["Left by ", b(body.exit)], sub: body.why }),
  conditionMet: ({ content, names }) => ({
    parts: ["What was waited for ", b("came true")],
    rows: content.condition ? [conditionRow(content.condition, names)] : [],
  }),
  signalCame: ({ body, content }) => ({
    parts: ["The signal ", b(body.signal), " came"],
    rows: valueRows(content.values),
  }),
  replyCame: ({ content, entry, names }) => ({
    parts: [b(doer(entry, names)), " replied"],
    quote: content.text,
    tone: "well",
  }),
  putBackBegan: ({ body }) => ({
    parts: [body.all ? "Everything is put back" : "What was switched off for a time is put back"],
    sub: body.names.join(", then ") || "there is nothing to put back",
    tone: body.all ? "late" : undefined,
  }),
  putBackEnded: ({ body }) =>
    body.left.length
      ? { parts: ["Not put back: ", b(body.left.join(", "), true)], tone: "late" }
      : { parts: ["All was ", b("put back")], tone: "well" },
  workflowCalled: ({ body }) => ({ parts: ["Called the workflow ", b(body.workflow), ` version ${body.version}`] }),
  calledEnded: ({ body, content }) => ({
    parts: ["The called workflow ended: ", b(body.result), ...(body.ticket ? [` on ${body.ticket}`] : [])],
    rows: valueRows(content.results),
  }),
  workflowSent: ({ body, content }) => ({
    parts: ["Sent the workflow ", b(body.name), body.raises ? ` to a new ${body.raises}` : ` to ${body.ticket}`],
    rows: valueRows(content.fields),
  }),
  sentRunBegan: ({ body }) => ({ parts: ["It began on ", b(body.run.split(".")[0])] }),
  sentRunEnded: ({ body }) => ({ parts: ["It ended on ", b(body.run.split(".")[0]), `: ${body.result}`] }),
  sentRunRecalled: ({ body }) => ({ parts: ["Recalled it from ", b(body.run.split(".")[0]), `: ${body.why}`] }),
  branched: ({ body, content, names }) => ({
    parts: ["Decided on data: ", b(body.exit)],
    rows: (content.conditions ?? []).map((c) => conditionRow(c, names)),
  }),
  updated: ({ body, content, names }) => ({
    parts: body.makes
      ? ["The workflow made the CI ", b(body.ci ?? "")]
      : ["The workflow set values", ...(body.ci ? [" on the CI ", b(body.ci)] : [])],
    rows: [
      ...changes(body.changes, names),
      ...changes(content.texts, names),
      ...changes(content.ciChanges, names, true),
      ...valueRows(content.vars),
    ],
  }),
  waitBegan: ({ body, names }) => {
    const until = body.until && `${day(body.until)}, ${clock(body.until)}`;
    return {
      parts: body.condition
        ? ["Waits until ", b(body.condition)]
        : body.signal
          ? ["Waits for the signal ", b(body.signal), body.key ? ` of ${body.key}` : ""]
          : body.replyOf
            ? ["Waits for a reply of ", b(assignedWords(body.replyOf, names))]
            : ["Waits until ", b(until)],
      sub: (body.condition || body.signal || body.replyOf) && until ? `at most until ${until}` : undefined,
    };
  },
  left: ({ body }) => ({ parts: ["Went on by ", b(body.exit)], sub: body.why }),
  ended: ({ body }) => ({ parts: ["Ended: ", b(body.result)] }),
  stalled: ({ body, content }) => ({ parts: [b("Stalled", true), `: ${body.code}`], quote: content.why, tone: "late" }),
  intervened: ({ body, content, entry, names }) => ({
    parts: [
      b(who(entry, names)),
      ` intervened: ${body.kind}`,
      body.exit ? ` “${body.exit}”` : "",
      body.step ? ` “${entry.stepName ?? body.step}”` : "",
      body.version ? ` ${body.version}` : "",
    ],
    quote: content.reason,
  }),
  withdrawn: ({ body }) => ({ parts: [`Withdrawn: ${body.why}`] }),
};
