import type { Trigger } from "../../api/types";
import { rhythmWords } from "../starts/rhythm";
import { conditionWords, fieldWords } from "./conditionWords";

type Names = {
  service: (id?: string) => string;
  source?: (key?: string) => string;
  field: (path: string) => string | undefined;
  calendar?: (key: string) => string;
};

/** A trigger as a sentence: "when an incident is raised for Ticket gates, if …". */
export function triggerWords(trigger: Trigger, names: Names): string {
  const kind = trigger.when.kind ?? "ticket";
  const a = /^[aeiou]/.test(kind) ? "an" : "a";
  const services = trigger.services.length ? ` for ${trigger.services.map(names.service).join(" or ")}` : "";
  const mode = trigger.mode === "starts" ? "" : ` (${trigger.mode})`;
  const condition = (trigger.condition ? `, if ${conditionWords(trigger.condition, names.field)}` : "") + mode;
  switch (trigger.when.is) {
    case "created":
      return `when ${a} ${kind} is raised${services}${condition}`;
    case "field reaches":
      return `${reaches(`${a} ${kind}`, trigger.when.field, trigger.when.value, names)}${services}${condition}`;
    case "approval ends":
      return `when an approval on ${a} ${kind} is ${trigger.when.exit}${services}${condition}`;
    case "clock reaches":
      return `${clockWords(`${a} ${kind}`, trigger.when.clock, trigger.when.percent)}${services}${condition}`;
    case "signal entered":
      return `${enteredWords(`${a} ${kind}`, trigger.when, names)}${services}${condition}`;
    case "signal comes":
      return `${signalWords(trigger.when, names)}${services}${condition}`;
    case "time comes":
      return `${rhythmWords(trigger.when.rhythm, names.calendar ?? ((key) => key))}, on ${opened(trigger.when.kind)}`;
    case "called":
      return `when a program calls its address, on ${opened(trigger.when.kind)}`;
    case "by hand":
      return `by hand from ${a} ${kind}${services}${condition}`;
  }
}

const opened = (kind: string | undefined) => (kind === "incident" ? "a new incident" : `a new ${kind ?? "routine"}`);

/** "when Board monitor reports a fault, minor or worse". */
function signalWords(when: Extract<Trigger["when"], { is: "signal comes" }>, names: Names): string {
  const who = when.source ? (names.source?.(when.source) ?? when.source) : "any source";
  const what = when.sort === "recovered" ? "that something has recovered" : when.sort === "news" ? "news" : "a fault";
  const bad = when.sort !== "recovered" && when.sort !== "news" && when.atLeast ? `, ${when.atLeast} or worse` : "";
  return `when ${who} reports ${what}${bad}`;
}

function clockWords(ticket: string, clock: "respond" | "restore", percent: number): string {
  const what = `${clock === "respond" ? "respond to" : clock} ${ticket}`;
  return percent === 100 ? `when the time to ${what} is over` : `when ${percent} % of the time to ${what} has passed`;
}

/** "when a fault of Board monitor is entered on a change". */
function enteredWords(ticket: string, when: Extract<Trigger["when"], { is: "signal entered" }>, names: Names): string {
  const what = when.sort === "recovered" ? "a recovery" : when.sort === "news" ? "news" : "a fault";
  const from = when.source ? ` from ${names.source?.(when.source) ?? when.source}` : "";
  return `when ${what}${from} is entered on ${ticket}`;
}

function reaches(ticket: string, field: string, value: string, names: Names): string {
  if (field === "major") return `when ${ticket} is ${value === "true" ? "marked" : "no longer marked"} as major`;
  const name = fieldWords(`ticket.${field}`, names.field).replace(/^the /, "");
  const plain = value === "true" ? "yes" : value === "false" ? "no" : `“${value}”`;
  return `when the ${name} of ${ticket} becomes ${plain}`;
}

/** How often something fired, in words. */
export function firedWords(count: number): string {
  return count === 1 ? "fired once" : `fired ${count} times`;
}
