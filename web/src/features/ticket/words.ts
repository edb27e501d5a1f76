import type { Deed, Party } from "../../api/types";
import { clock, day, withTimes } from "../../ui/time";

export type Names = { person: (id?: string) => string; group: (id?: string) => string; rota: (key?: string) => string };

const LEVELS = ["second", "third", "fourth", "fifth"];

export function partyWords(party: Party, names: Names): string {
  switch (party.is) {
    case "group":
      return names.group(party.group);
    case "person":
      return names.person(party.person);
    case "requester":
      return "the requester";
    case "ticketGroup":
      return "the ticket’s group";
    case "ciOwner":
      return "the CI’s owner";
    case "onCall":
      return `${party.level === 1 ? "" : `${LEVELS[party.level - 2]} `}on call, ${names.rota(party.rota)}`;
    case "role":
      return `everybody who is ${party.role}`;
    case "manager":
      return "the requester’s manager";
    case "takesPart":
      return `whoever is ${party.as}`;
    case "computed":
      return party.expression === "ticket.assignee" ? "whoever has the ticket" : `whoever is ${party.expression}`;
  }
}

/** What a rung does, as a sentence's end: "tells Duty managers". */
export function deedWords(deed: Deed, names: Names): string {
  switch (deed.does) {
    case "remind":
      return "reminds those who are asked";
    case "tell":
      return `tells ${deed.to.map((p) => partyWords(p, names)).join(", ")}`;
    case "add":
      return `asks ${deed.to.map((p) => partyWords(p, names)).join(", ")} as well`;
    case "hand over":
      return `hands over to ${partyWords(deed.to, names)}`;
    case "raise priority":
      return "raises the priority";
    case "decide":
      return `takes “${deed.exit}”`;
  }
}

export function assignedWords(assigned: { groups: string[]; people: string[] }, names: Names): string {
  return [...assigned.groups.map(names.group), ...assigned.people.map(names.person)].join(", ");
}

const INSTANT = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(:\d{2}(\.\d+)?)?Z$/;
const NUMBER = new Intl.NumberFormat("en-GB", { maximumSignificantDigits: 4, useGrouping: false });
/** Items of a list that are told one by one. */
const TOLD = 12;

/** A number with no more digits than anybody reads; whole ones as they are. */
const numberWords = (value: number) => (Number.isInteger(value) ? String(value) : NUMBER.format(value));

/** An object by its values: "board ALD-03, age 12". */
const objectWords = (value: object): string =>
  Object.entries(value)
    .map(([k, v]) => `${k} ${valueWords(v)}`)
    .join(", ") || "nothing";

function listWords(list: unknown[]): string {
  if (list.length === 0) return "nothing";
  const rows = list.some((x) => x !== null && typeof x === "object" && !Array.isArray(x));
  const told = list
    .slice(0, TOLD)
    .map(valueWords)
    .join(rows ? "; " : ", ");
  const rest = list.length - TOLD;
  return `${rows ? `${list.length} ${list.length === 1 ? "row" : "rows"}: ` : ""}${told}${rest > 0 ? ` and ${rest} more` : ""}`;
}

/** A value as people say it: times in their own time, lists and rows by what is in them, never as code. */
export function valueWords(value: unknown): string {
  if (value === undefined || value === null || value === "") return "nothing";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "number") return numberWords(value);
  if (Array.isArray(value)) return listWords(value);
  if (typeof value === "object") return objectWords(value);
  const text = String(value);
  return INSTANT.test(text) ? `${day(text)}, ${clock(text)}` : text;
}

/** A text that a machine wrote, with its times and numbers as people say them: in what a check or a condition has seen. */
export const saidWords = (text: string): string =>
  withTimes(text).replace(/(?<![\w.-])\d+\.\d{4,}(?![\w.])/g, (n) => numberWords(Number(n)));

/** How runs ended, the most frequent first: "12 runs: lane closed 9, cleared 3". */
export function endingWords(endings: { result: string; times: number }[]): string {
  const all = endings.reduce((sum, e) => sum + e.times, 0);
  if (all === 0) return "no run has ended yet";
  const named = endings.slice(0, 3).map((e) => `${e.result} ${e.times}`);
  const rest = all - endings.slice(0, 3).reduce((sum, e) => sum + e.times, 0);
  return `${all} ${all === 1 ? "run" : "runs"}: ${[...named, ...(rest ? [`otherwise ${rest}`] : [])].join(", ")}`;
}
