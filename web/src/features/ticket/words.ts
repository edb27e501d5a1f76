import type { Deed, Party } from "../../api/types";

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

export const valueWords = (value: unknown): string =>
  value === undefined || value === null || value === ""
    ? "nothing"
    : value === true
      ? "yes"
      : value === false
        ? "no"
        : Array.isArray(value)
          ? value.map(valueWords).join(", ")
          : String(value);

/** How runs ended, the most frequent first: "12 runs: lane closed 9, cleared 3". */
export function endingWords(endings: { result: string; times: number }[]): string {
  const all = endings.reduce((sum, e) => sum + e.times, 0);
  if (all === 0) return "no run has ended yet";
  const named = endings.slice(0, 3).map((e) => `${e.result} ${e.times}`);
  const rest = all - endings.slice(0, 3).reduce((sum, e) => sum + e.times, 0);
  return `${all} ${all === 1 ? "run" : "runs"}: ${[...named, ...(rest ? [`otherwise ${rest}`] : [])].join(", ")}`;
}
