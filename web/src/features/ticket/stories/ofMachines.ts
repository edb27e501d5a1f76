import type { RuleSeen } from "../../../api/types";
import { span } from "../../../ui/time";
import { assignedWords, saidWords } from "../words";
import { b, doer, type Tellers, valueRows } from "./parts";

const times = (n: number) => (n === 1 ? "once" : n === 2 ? "twice" : `${n} times`);

function ruleRows(rules: RuleSeen[] | undefined, first?: RuleSeen[]): [string, string][] {
  return (rules ?? []).map((r, i) => {
    const before = first?.[i];
    const began = before && before.why !== r.why ? ` At first: ${saidWords(before.why)}` : "";
    return [`${r.holds ? "✓" : "✗"} ${r.name}`, `${saidWords(r.why)}${began}`];
  });
}

function sideEffects(rules: RuleSeen[] | undefined): string | undefined {
  const bad = (rules ?? []).filter((r) => !r.holds && r.sense === "should stay").map((r) => r.name);
  return bad.length ? `turned bad: ${bad.join(", ")}` : undefined;
}

/** Of what machines did and measured. */
export const ofMachines: Tellers<
  | "measured"
  | "checkJudged"
  | "checked"
  | "reviewAsked"
  | "reviewed"
  | "callRequested"
  | "callRepeated"
  | "attemptFailed"
  | "callDone"
  | "resultKept"
  | "callFailed"
  | "callUnsure"
  | "lateResult"
  | "readByHand"
> = {
  readByHand: ({ body, content, entry, names }) => ({
    parts: body.read
      ? [`${doer(entry, names)} read: `, b(body.name)]
      : [`${doer(entry, names)} could not read: `, b(body.name, true)],
    rows: [...valueRows(content.inputs), ...valueRows(content.outputs)],
    quote: content.why,
    tone: body.read ? undefined : "late",
  }),
  measured: ({ body, content }) => ({
    parts: ["Measured in ", b(span(body.tookMillis))],
    rows: valueRows(content.outputs),
    log: content.log,
  }),
  checkJudged: ({ body, content }) => ({
    parts: [`Judged ${times(body.tries)}: `, b(`${body.held} of ${body.rules} rules hold`), "; judged again"],
    rows: ruleRows(content.seen),
  }),
  checked: ({ body, content }) => ({
    parts: [
      b(body.exit === "pass" ? "passed" : "failed", body.exit !== "pass"),
      `: ${body.held} of ${body.rules} rules hold`,
      body.tries > 1 ? `, judged ${times(body.tries)}` : "",
    ],
    sub: sideEffects(content.last),
    rows: ruleRows(content.last, body.tries > 1 ? content.first : undefined),
    tone: body.exit === "pass" ? "well" : "late",
  }),
  reviewAsked: ({ body, content, names }) => ({
    parts: ["Asked ", b(assignedWords(body.to, names)), ` to look: ${body.held} of ${body.rules} rules hold`],
    sub: sideEffects(content.last),
    rows: ruleRows(content.last),
    tone: "late",
  }),
  reviewed: ({ body, content, entry, names }) => ({
    parts: [b(doer(entry, names)), ": ", b(body.verdict)],
    quote: content.reason,
    tone: body.verdict === "accept" ? "well" : undefined,
  }),
  callRequested: ({ body, content }) => ({
    parts: ["Started ", b(body.actionName)],
    sub: `key ${body.key}`,
    rows: valueRows(content.inputs),
  }),
  callRepeated: ({ body }) => ({ parts: [`Try ${body.attempt}`], sub: `key ${body.key}` }),
  attemptFailed: ({ body, content }) => ({
    parts: [
      `Try ${body.attempt} `,
      b(body.unknown ? "has an unknown outcome" : "failed", true),
      body.nextAt ? "; tried again" : "",
    ],
    quote: content.why,
    tone: "late",
  }),
  callDone: ({ body, content }) => ({
    parts: [
      b(body.exit),
      ` in ${span(body.tookMillis)}`,
      body.attempt > 1 ? `, on try ${body.attempt}` : "",
      body.polls > 0 ? `, asked ${body.polls} times` : "",
    ],
    sub: body.reference ? `reference ${body.reference}` : undefined,
    rows: valueRows(content.outputs),
    log: content.log,
    tone: "well",
  }),
  resultKept: ({ body, content }) => ({
    parts: [b(body.exit), ` in ${span(body.tookMillis)}, from where no way leads on; `, b("a person decides", true)],
    sub: body.reference ? `reference ${body.reference}` : undefined,
    rows: valueRows(content.outputs),
    log: content.log,
    tone: "late",
  }),
  callFailed: ({ content }) => ({
    parts: [b("failed", true), `; the way for failure is taken`],
    quote: content.error,
    tone: "late",
  }),
  callUnsure: ({ content }) => ({
    parts: ["Nobody knows whether it happened; ", b("a person decides", true)],
    quote: content.why,
    tone: "late",
  }),
  lateResult: ({ body, content }) => ({
    parts: ["A result came after withdrawal and moved nothing: ", b(body.outcome)],
    log: content.detail,
  }),
};
