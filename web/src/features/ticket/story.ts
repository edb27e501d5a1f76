import type { Deed, Entry } from "../../api/types";
import { clock, day, span } from "../../ui/time";
import { conditionWords, fieldWords, seenWords } from "../designer/conditionWords";
import { assignedWords, deedWords, type Names as PartyNames, saidWords, valueWords } from "./words";

type Part = string | { strong: string; late?: boolean };

/** One entry told as a sentence. */
export interface Story {
  parts: Part[];
  sub?: string;
  quote?: string;
  log?: string;
  /** Each with what it says; the value itself beside it where it may be a table. */
  rows?: [string, string, unknown?][];
  tone?: "late" | "well";
}

interface Names extends PartyNames {
  service: (id?: string) => string;
  source?: (key?: string) => string;
  directory?: { fields: { name: string; label: string; type: string }[]; ciFields: { name: string; label: string }[] };
}

// biome-ignore lint/suspicious/noExplicitAny: bodies differ by kind; each case below knows its own
type Body = Record<string, any>;

const b = (strong: unknown, late?: boolean): Part => ({ strong: String(strong), late });

/** Who did it: both names where one acted for another. */
function doer(entry: Entry, names: Names): string {
  const body = entry.body as { by?: string };
  return (entry.actor as { is: string }).is === "person" ? who(entry, names) : names.person(body.by);
}

function who(entry: Entry, names: Names): string {
  const actor = entry.actor as { is: string; person?: string; coverFor?: string; action?: string; party?: string };
  switch (actor.is) {
    case "person":
      return names.person(actor.person) + (actor.coverFor ? ` for ${names.person(actor.coverFor)}` : "");
    case "automation":
      return `the action ${actor.action}`;
    case "clock":
      return "the clock";
    case "outside":
      return names.source ? names.source(actor.party) : String(actor.party);
    default:
      return "the system";
  }
}

function changes(body: Body | undefined, names: Names, ci = false): [string, string][] {
  return Object.entries(body ?? {}).map(([name, c]) => {
    const field = (ci ? names.directory?.ciFields : names.directory?.fields)?.find((f) => f.name === name) as
      | { label: string; type?: string }
      | undefined;
    const say = (v: unknown) =>
      v === undefined
        ? "nothing"
        : field?.type === "person"
          ? names.person(String(v))
          : field?.type === "group"
            ? names.group(String(v))
            : field?.type === "service"
              ? names.service(String(v))
              : valueWords(v);
    const change = c as { before?: unknown; after?: unknown };
    return [
      `${ci ? "CI: " : ""}${field?.label ?? name}`,
      change.before === undefined ? say(change.after) : `${say(change.before)} → ${say(change.after)}`,
    ];
  });
}

/** A field by the name that people know. */
function label(field: string, names: Names): string {
  return names.directory?.fields.find((f) => f.name === field)?.label ?? field;
}

/** Where a target of a ticket stands. */
function targetWords(t: Body): string {
  const late = t.missed ? ", too late" : "";
  if (t.metAt) return `met ${day(t.metAt)}, ${clock(t.metAt)}${late}`;
  return t.due ? `until ${day(t.due)}, ${clock(t.due)}${late}` : `stands still, ${t.rest} left${late}`;
}

/** What signals said. */
function heardWords(body: Body): string {
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
    default:
      return "says";
  }
}

/** What set off the trigger by which the ticket was opened. */
function causeStory(cause: Body, who: string): Story {
  switch (cause.is) {
    case "time came":
      return {
        parts: ["Its time had come: ", b(`${day(cause.planned)}, ${clock(cause.planned)}`)],
        sub: cause.late ? `late: ${cause.late}` : undefined,
      };
    case "call":
      return { parts: ["A program called its address"], sub: `call ${cause.call}` };
    default:
      return { parts: [b(who), " started it by hand, as it starts by itself"] };
  }
}

const times = (n: number) => (n === 1 ? "once" : n === 2 ? "twice" : `${n} times`);

const BRACKET_WORDS: Record<string, (body: Body) => string> = {
  stage: () => "begins",
  fork: (x) => `${x.count} lines side by side${x.needed < x.count ? `, until the first ${x.needed} are done` : ""}`,
  "for each": (x) =>
    `${x.count} ${x.count === 1 ? "item" : "items"}${x.atOnce > 1 ? `, ${x.atOnce} at a time` : ", one after the other"}`,
  repeat: (x) => `at most ${x.count} rounds`,
};

/** What a message is, by its purpose. */
const MESSAGES: Record<string, string> = {
  reminder: "Reminder",
  withdrawn: "Word",
  "call-in": "Call-in",
  escalation: "Escalation",
  decision: "Asked for a decision,",
  task: "Told of what is theirs,",
};

/** By what a message came, from what the server that took it calls it. */
function deliveredBy(reference: string): string {
  const chat = reference.startsWith("chat ");
  return chat && reference.includes("mail ") ? "Chat and mail" : chat ? "Chat" : "Mail";
}

/** An item of a list in a line: its values, or itself. */
function itemWords(item: unknown): string {
  return item !== null && typeof item === "object" && !Array.isArray(item)
    ? Object.entries(item)
        .map(([k, v]) => `${k} ${valueWords(v)}`)
        .join(" · ")
    : valueWords(item);
}

/** How people call a field, by its path. */
const fieldOf = (names: Names) => (path: string) => {
  const name = path.slice(path.indexOf(".") + 1);
  const fields = path.startsWith("ticket.") ? names.directory?.fields : names.directory?.ciFields;
  return /^(ticket|ci)\./.test(path) ? fields?.find((f) => f.name === name)?.label : undefined;
};

function conditionRow(c: Body, names: Names): [string, string] {
  const label = fieldOf(names);
  const seen = ((c.clauses ?? []) as Body[]).flatMap((x) =>
    Object.entries(x.seen as Body).map(([k, v]) => seenWords(k, v, valueWords(v), label)),
  );
  return [String(c.verdict), `${conditionWords(String(c.condition), label)} (${seen.join(", ")})`];
}

/** What a path is called at the beginning of a line, as it was called to whoever was asked. */
function pathWords(path: string, names: Names): string {
  const name = path.slice(path.indexOf(".") + 1);
  const fields = path.startsWith("ci.") ? names.directory?.ciFields : names.directory?.fields;
  const words = fieldWords(path, () => fields?.find((f) => f.name === name)?.label);
  const ofCi = /^the CI’s (.)(.*)$/.exec(words);
  if (ofCi) return `CI: ${ofCi[1]?.toUpperCase()}${ofCi[2]}`;
  return words === path ? path : words.charAt(0).toUpperCase() + words.slice(1);
}

/** Why a workflow left a task out: its condition in words. */
const leftOutWords = (reason: unknown) =>
  typeof reason === "string" && reason.startsWith("because ")
    ? `because ${conditionWords(reason.slice("because ".length))}`
    : reason;

/** Values by their names. */
const valueRows = (values: unknown): [string, string, unknown][] =>
  Object.entries((values ?? {}) as Body).map(([k, v]) => [k, valueWords(v), v]);

function ruleRows(rules: Body[] | undefined, first?: Body[]): [string, string][] {
  return (rules ?? []).map((r, i) => {
    const before = first?.[i];
    const began = before && before.why !== r.why ? ` At first: ${saidWords(before.why)}` : "";
    return [`${r.holds ? "✓" : "✗"} ${r.name}`, `${saidWords(r.why)}${began}`];
  });
}

function sideEffects(rules: Body[] | undefined): string | undefined {
  const bad = (rules ?? []).filter((r) => !r.holds && r.sense === "should stay").map((r) => r.name);
  return bad.length ? `turned bad: ${bad.join(", ")}` : undefined;
}

/** The entry as a sentence that says which step it is about: of several side by side one could not tell else. */
export function story(entry: Entry, names: Names): Story {
  const told = tell(entry, names);
  const step = entry.stepName;
  const said = told.parts.map((p) => (typeof p === "string" ? p : p.strong)).join("");
  return !step || said.includes(step) ? told : { ...told, parts: [`${step} · `, ...told.parts] };
}

function tell(entry: Entry, names: Names): Story {
  const body = entry.body as Body;
  const content = (entry.content ?? {}) as Body;
  switch (entry.kind) {
    case "ticketRaised": {
      const f = body.fields as Body;
      return {
        parts: [
          b(who(entry, names)),
          " raised the ticket",
          ...(f.priority ? [", priority ", b(f.priority)] : []),
          ...(f.ci ? [", CI ", b(f.ci)] : []),
        ],
        sub: f.requester ? `for ${names.person(f.requester)}` : undefined,
        quote: content.texts?.description,
      };
    }
    case "ticketChanged":
      return {
        parts: [b(who(entry, names)), " changed the ticket"],
        sub: content.reason,
        rows: [...changes(body.changes, names), ...changes(content.texts, names)],
      };
    case "noteAdded":
      return {
        parts: [b(who(entry, names)), body.toRequester ? " wrote for the requester" : " noted"],
        quote: content.text,
      };
    case "signalsHeard":
      return {
        parts: [
          b(names.source ? names.source(body.source) : body.source),
          ` ${heardWords(body)}`,
          ...(content.title ? [": ", b(content.title)] : []),
        ],
        sub:
          body.count > 1
            ? `from ${clock(body.first)} to ${clock(body.last)}`
            : body.worst && body.worst !== "cleared"
              ? String(body.worst)
              : undefined,
        quote: content.text,
        rows: valueRows(content.values),
        tone: body.turn === "recovered" ? "well" : undefined,
      };
    case "caused":
      return causeStory(body.cause, who(entry, names));
    case "recoveryHeard":
      return {
        parts: [
          `It has been well since ${clock(body.since)}`,
          body.restores ? ", so it is restored" : ": it could be set to restored",
        ],
        tone: "well",
      };
    case "fileAttached":
      return {
        parts: [b(who(entry, names)), " attached ", b(content.name ?? "a file, since taken off the record")],
        sub: `SHA-256 ${String(body.hash).slice(0, 16)}…${body.toRequester ? " · the requester sees it" : ""}`,
      };
    case "helpAsked":
      return {
        parts: [b(doer(entry, names)), " asked ", b(assignedWords(body.to, names)), " to help"],
        quote: content.text,
      };
    case "approvalTurn":
      return {
        parts: ["Now it is the turn of ", b((body.people as string[]).map((p) => names.person(p)).join(", "))],
      };
    case "askedBack":
      return {
        parts: [b(doer(entry, names)), " asks before deciding; the clocks stand still"],
        quote: content.text,
      };
    case "answeredBack":
      return {
        parts: [b(who(entry, names)), " answered; the clocks run on"],
        sub: body.pausedSeconds > 0 ? `they stood still for ${span(body.pausedSeconds * 1000)}` : undefined,
        quote: content.text,
      };
    case "lateSettled":
      return { parts: [b(who(entry, names)), " looked at what came too late"], quote: content.note };
    case "triggersLookedAt":
      return body.started.length > 0
        ? {
            parts: [
              `Looked at ${body.looked} ${body.looked === 1 ? "trigger" : "triggers"}: ${body.started.length} started a workflow`,
            ],
          }
        : {
            parts: [`Looked at ${body.looked} ${body.looked === 1 ? "trigger" : "triggers"}: none started a workflow`],
          };
    case "voteWithdrawn":
      return { parts: [b(doer(entry, names)), " took their vote back"] };
    case "startOffered":
      return {
        parts: [
          body.asked.groups.length + body.asked.people.length > 0 ? "Asked whether to start " : "Offered to start ",
          b(body.name),
        ],
      };
    case "startAnswered":
      return {
        parts: [b(who(entry, names)), body.starts ? " said to start " : " said not to start ", b(body.name)],
        quote: content.reason,
      };
    case "runStarted":
      return {
        parts: [b(body.name), ` version ${body.version} started`],
        sub: body.trigger ? "by a trigger" : `by ${who(entry, names)}`,
      };
    case "runEnded":
      return {
        parts: ["The run ended: ", b(body.result, body.stopped)],
        sub: body.stillOff ? `still switched off: ${(body.stillOff as string[]).join(", ")}` : undefined,
        rows: valueRows(content.results),
        tone: body.stillOff ? "late" : undefined,
      };
    case "taskLeftOut":
      return {
        parts: [body.by ? b(doer(entry, names)) : "The workflow", " left it out; went on by ", b(body.exit)],
        quote: body.by ? content.reason : leftOutWords(content.reason),
      };
    case "bracketOpened":
      return {
        parts: [b(body.name), ": ", BRACKET_WORDS[String(body.bracket)]?.(body) ?? String(body.bracket)],
        rows: ((content.items ?? []) as unknown[])
          .slice(0, 20)
          .map((item, i): [string, string] => [String(i + 1), itemWords(item)]),
      };
    case "lineBegan":
      return { parts: [`Number ${Number(body.index) + 1} began`] };
    case "lineEnded":
      return {
        parts: [`Number ${Number(body.index) + 1} `, b(body.done ? "is done" : "has failed", !body.done)],
        sub: body.result,
        tone: body.done ? undefined : "late",
      };
    case "roundJudged":
      return {
        parts: [`Round ${body.round}: `, b(body.holds ? "the condition holds" : "the condition does not hold yet")],
        rows: content.condition ? [conditionRow(content.condition as Body, names)] : [],
      };
    case "bracketLeft":
      return { parts: ["Left by ", b(body.exit)], sub: body.why };
    case "conditionMet":
      return {
        parts: ["What was waited for ", b("came true")],
        rows: content.condition ? [conditionRow(content.condition as Body, names)] : [],
      };
    case "signalCame":
      return {
        parts: ["The signal ", b(body.signal), " came"],
        rows: valueRows(content.values),
      };
    case "putBackBegan":
      return {
        parts: [body.all ? "Everything is put back" : "What was switched off for a time is put back"],
        sub: (body.names as string[]).join(", then ") || "there is nothing to put back",
        tone: body.all ? "late" : undefined,
      };
    case "putBackEnded":
      return (body.left as string[]).length
        ? { parts: ["Not put back: ", b((body.left as string[]).join(", "), true)], tone: "late" }
        : { parts: ["All was ", b("put back")], tone: "well" };
    case "workflowCalled":
      return { parts: ["Called the workflow ", b(body.workflow), ` version ${body.version}`] };
    case "workflowSent":
      return {
        parts: ["Sent the workflow ", b(body.name), body.raises ? ` to a new ${body.raises}` : ` to ${body.ticket}`],
        rows: valueRows(content.fields),
      };
    case "sentRunBegan":
      return { parts: ["It began on ", b(String(body.run).split(".")[0])] };
    case "sentRunEnded":
      return { parts: ["It ended on ", b(String(body.run).split(".")[0]), `: ${body.result}`] };
    case "sentRunRecalled":
      return { parts: ["Recalled it from ", b(String(body.run).split(".")[0]), `: ${body.why}`] };
    case "ticketLinked":
      return { parts: [b(who(entry, names)), ` linked it: ${body.as} `, b(body.other)] };
    case "partnerJoined":
      return {
        parts: [
          body.theirs ? "It is followed here as " : "It is followed there as ",
          b(body.id),
          ` of ${names.source ? names.source(body.partner) : body.partner}`,
        ],
      };
    case "partnerLeft":
      return { parts: ["It is no longer followed there: ", b(body.why)], tone: "late" };
    case "partnerDiffers":
      return {
        parts: [
          b(`${label(body.field, names)}: they see it otherwise`),
          ` — we say ${content.ours ?? "nothing"}, they say ${content.word ?? "something that was taken away"}`,
        ],
        sub: `${body.why} Asked: ${assignedWords(body.asked, names)}`,
        tone: "late",
      };
    case "differenceSettled":
      return body.way === "gone"
        ? { parts: [b(label(body.field, names)), ": both say the same again"], tone: "well" }
        : {
            parts: [b(who(entry, names)), ` said that ${body.way} counts: `, b(label(body.field, names))],
            quote: content.reason,
            tone: "well",
          };
    case "saidToPartner":
      return {
        parts: [b(who(entry, names)), ` said to ${names.source ? names.source(body.partner) : body.partner}`],
        quote: content.text,
      };
    case "partnerSaid":
      return {
        parts: [
          b(content.by ?? who(entry, names)),
          ` said at ${names.source ? names.source(body.partner) : body.partner}`,
        ],
        quote: content.text,
      };
    case "partnerTold":
      return content.problem
        ? {
            parts: ["It did not come there: ", b(content.problem, true)],
            rows: valueRows(content.values),
            tone: "late",
          }
        : {
            parts: [body.entry ? `They have what was said in entry ${body.entry}` : "They were told"],
            rows: valueRows(content.values),
          };
    case "ticketUnlinked":
      return { parts: [b(who(entry, names)), ` took the link away: ${body.as} `, b(body.other)] };
    case "replyCame":
      return { parts: [b(doer(entry, names)), " replied"], quote: content.text, tone: "well" };
    case "calledEnded":
      return {
        parts: ["The called workflow ended: ", b(body.result), ...(body.ticket ? [` on ${body.ticket}`] : [])],
        rows: valueRows(content.results),
      };
    case "measured":
      return {
        parts: ["Measured in ", b(span(body.tookMillis))],
        rows: valueRows(content.outputs),
        log: content.log,
      };
    case "checkJudged":
      return {
        parts: [`Judged ${times(body.tries)}: `, b(`${body.held} of ${body.rules} rules hold`), "; judged again"],
        rows: ruleRows(content.seen as Body[] | undefined),
      };
    case "checked":
      return {
        parts: [
          b(body.exit === "pass" ? "passed" : "failed", body.exit !== "pass"),
          `: ${body.held} of ${body.rules} rules hold`,
          body.tries > 1 ? `, judged ${times(body.tries)}` : "",
        ],
        sub: sideEffects(content.last as Body[] | undefined),
        rows: ruleRows(content.last as Body[] | undefined, body.tries > 1 ? (content.first as Body[]) : undefined),
        tone: body.exit === "pass" ? "well" : "late",
      };
    case "reviewAsked":
      return {
        parts: ["Asked ", b(assignedWords(body.to, names)), ` to look: ${body.held} of ${body.rules} rules hold`],
        sub: sideEffects(content.last as Body[] | undefined),
        rows: ruleRows(content.last as Body[] | undefined),
        tone: "late",
      };
    case "reviewed":
      return {
        parts: [b(doer(entry, names)), ": ", b(body.verdict)],
        quote: content.reason,
        tone: body.verdict === "accept" ? "well" : undefined,
      };
    case "callInBegan":
      return {
        parts: ["Calls people in: ", b(body.name), ...(body.as ? [" as ", b(body.as)] : [])],
        quote: content.message,
      };
    case "callInAnswered":
      return {
        parts: [
          b(doer(entry, names)),
          body.accepted ? " is coming" : " cannot come",
          ...(body.as ? [" as ", b(body.as)] : []),
        ],
        tone: body.accepted ? "well" : undefined,
      };
    case "redacted":
      return { parts: [b(who(entry, names)), ` took the content of entry ${body.seq} away`], quote: content.reason };
    case "taskOffered":
      return {
        parts: ["Task for ", b(assignedWords(body.to, names)), `: ${body.name}`],
        sub: body.due ? `due ${clock(body.due)}` : "no time set",
        quote: content.instructions,
      };
    case "taskClaimed":
      return { parts: [b(doer(entry, names)), " claimed it"] };
    case "taskPassedOn":
      return {
        parts: [b(doer(entry, names)), " passed it on to ", b(assignedWords(body.to, names))],
        quote: content.reason,
      };
    case "taskHandedBack":
      return { parts: [b(doer(entry, names)), " handed it back"] };
    case "taskTakenBack":
      return { parts: [b(doer(entry, names)), " took back: ", b(body.exit)] };
    case "targetsSet":
      return {
        parts: ["The clocks: ", body.why],
        rows: Object.entries(body.targets as Record<string, Body>).map(([of, t]) => [of, targetWords(t)]),
      };
    case "targetMissed":
      return { parts: [`The time to ${body.of} `, b("is over", true)], tone: "late" };
    case "taskDone":
      return {
        parts: [b(doer(entry, names)), body.asOverseer ? " as overseer: " : ": ", b(body.exit)],
        quote: content.note,
        rows: valueRows(content.form),
        tone: "well",
      };
    case "cameTooLate":
      return { parts: [b(doer(entry, names)), ` answered too late: the ${body.what} was closed already`] };
    case "approvalAsked":
      return {
        parts: ["Asked for approval: ", b(body.name), ...(body.round > 1 ? [` (round ${body.round})`] : [])],
        sub: `${(body.electorate as string[]).map(names.person).join(", ")} · ${body.rule}`,
        quote: content.question,
        rows: Object.entries((content.values ?? {}) as Body).map(([path, v]): [string, string, unknown] => [
          pathWords(path, names),
          valueWords(v),
          v,
        ]),
      };
    case "voteCast":
      return {
        parts: [
          b(doer(entry, names)),
          body.yes ? " approved" : " declined",
          ...(content.condition ? [" on the condition: ", b(content.condition)] : []),
        ],
        quote: content.comment,
        tone: body.yes ? "well" : "late",
      };
    case "approvalVoided":
      return {
        parts: ["What was shown has changed; the approval is void and is asked again"],
        rows: changes(content.values, names),
        tone: "late",
      };
    case "approvalClosed":
      return {
        parts: [b(body.exit, body.exit !== "approved")],
        sub: `${body.yes} for, ${body.no} against, of ${body.electorate}`,
        tone: body.exit === "approved" ? "well" : "late",
      };
    case "branched":
      return {
        parts: ["Decided on data: ", b(body.exit)],
        rows: ((content.conditions ?? []) as Body[]).map((c) => conditionRow(c, names)),
      };
    case "updated":
      return {
        parts: ["The workflow set values"],
        rows: [
          ...changes(body.changes, names),
          ...changes(content.texts, names),
          ...changes(content.ciChanges, names, true),
          ...Object.entries((content.vars ?? {}) as Body).map(([k, v]): [string, string] => [k, valueWords(v)]),
        ],
      };
    case "waitBegan":
      return {
        parts: body.condition
          ? ["Waits until ", b(body.condition)]
          : body.signal
            ? ["Waits for the signal ", b(body.signal), body.key ? ` of ${body.key}` : ""]
            : body.replyOf
              ? ["Waits for a reply of ", b(assignedWords(body.replyOf, names))]
              : ["Waits until ", b(`${day(body.until)}, ${clock(body.until)}`)],
        sub:
          (body.condition || body.signal || body.replyOf) && body.until
            ? `at most until ${day(body.until)}, ${clock(body.until)}`
            : undefined,
      };
    case "left":
      return { parts: ["Went on by ", b(body.exit)], sub: body.why };
    case "ended":
      return { parts: ["Ended: ", b(body.result)] };
    case "callRequested":
      return {
        parts: ["Started ", b(body.actionName)],
        sub: `key ${body.key}`,
        rows: valueRows(content.inputs),
      };
    case "callRepeated":
      return { parts: [`Try ${body.attempt}`], sub: `key ${body.key}` };
    case "attemptFailed":
      return {
        parts: [
          `Try ${body.attempt} `,
          b(body.unknown ? "has an unknown outcome" : "failed", true),
          body.nextAt ? "; tried again" : "",
        ],
        quote: content.why,
        tone: "late",
      };
    case "callDone":
      return {
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
      };
    case "resultKept":
      return {
        parts: [
          b(body.exit),
          ` in ${span(body.tookMillis)}, from where no way leads on; `,
          b("a person decides", true),
        ],
        sub: body.reference ? `reference ${body.reference}` : undefined,
        rows: valueRows(content.outputs),
        log: content.log,
        tone: "late",
      };
    case "callFailed":
      return { parts: [b("failed", true), `; the way for failure is taken`], quote: content.error, tone: "late" };
    case "callUnsure":
      return {
        parts: ["Nobody knows whether it happened; ", b("a person decides", true)],
        quote: content.why,
        tone: "late",
      };
    case "lateResult":
      return { parts: ["A result came after withdrawal and moved nothing: ", b(body.outcome)], log: content.detail };
    case "messageQueued":
      return {
        parts: [
          `${MESSAGES[String(body.purpose)] ?? "Mail"} to `,
          b((body.people as string[]).map(names.person).join(", ") || "nobody"),
        ],
        sub: content.subject,
        quote: content.text || undefined,
      };
    case "roomTold":
      return {
        parts: ["Said in the room ", b(content.name ?? "of this ticket")],
        sub: (body.invited as string[]).length
          ? `invited: ${(body.invited as string[]).map(names.person).join(", ")}`
          : undefined,
        quote: content.text,
      };
    case "roomOpened":
      return {
        parts: ["The room ", b(content.name ?? body.room), " is open"],
        sub: body.keepsAll
          ? "all that is said there comes onto the record"
          : "what is marked there comes onto the record",
      };
    case "roomTalked":
      return {
        parts: [b(`${body.lines} ${body.lines === 1 ? "line" : "lines"}`), " in the room"],
        rows: ((content.said ?? []) as Body[]).map((l): [string, string] => [
          l.by ? names.person(l.by) : String(l.name),
          String(l.text),
        ]),
      };
    case "roomFailed":
      return { parts: ["Could ", b("not be said in the room", true)], quote: content.why, tone: "late" };
    case "messageDelivered":
      return {
        parts: [`${deliveredBy(String(body.reference ?? ""))} delivered to `, b(names.person(body.person))],
      };
    case "messageResent":
      return { parts: [b(who(entry, names)), " sent it to ", b(names.person(body.person)), " once more"] };
    case "messageFailed":
      return {
        parts: ["Mail to ", b(names.person(body.person)), " could ", b("not be delivered", true)],
        quote: content.why,
        sub: `${body.tries} tries`,
        tone: "late",
      };
    case "rungFired":
      return {
        parts: [`Rung ${body.rung}${body.late ? " (late)" : ""}: `, b(deedWords(body.deed as Deed, names))],
        sub: body.handedTo
          ? `now with ${assignedWords(body.handedTo, names)}`
          : body.needed
            ? `${body.needed} must say yes now`
            : undefined,
      };
    case "stalled":
      return { parts: [b("Stalled", true), `: ${body.code}`], quote: content.why, tone: "late" };
    case "intervened":
      return {
        parts: [
          b(who(entry, names)),
          ` intervened: ${body.kind}`,
          body.exit ? ` “${body.exit}”` : "",
          body.step ? ` “${entry.stepName ?? body.step}”` : "",
          body.version ? ` ${body.version}` : "",
        ],
        quote: content.reason,
      };
    case "withdrawn":
      return { parts: [`Withdrawn: ${body.why}`] };
    default:
      return { parts: [entry.kind] };
  }
}
