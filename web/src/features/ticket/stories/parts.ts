import type { Change, Entry, EntryOf, Explained } from "../../../api/types";
import { conditionWords, seenWords } from "../../designer/conditionWords";
import { type Names as PartyNames, valueWords } from "../words";

export type Part = string | { strong: string; late?: boolean };

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

export interface Names extends PartyNames {
  service: (id?: string) => string;
  source?: (key?: string) => string;
  directory?: { fields: { name: string; label: string; type: string }[]; ciFields: { name: string; label: string }[] };
}

/** What an entry holds, with what was taken away or never there as absent. */
export interface Told<K extends Entry["kind"]> {
  body: EntryOf<K>["body"];
  content: Partial<NonNullable<EntryOf<K>["content"]>>;
  entry: EntryOf<K>;
  names: Names;
}

/** How entries of each of these kinds are told. */
export type Tellers<K extends Entry["kind"]> = { [One in K]: (told: Told<One>) => Story };

export const b = (strong: unknown, late?: boolean): Part => ({ strong: String(strong), late });

/** Who did it: both names where one acted for another. */
export function doer(entry: Entry, names: Names): string {
  return entry.actor.is === "person" ? who(entry, names) : names.person((entry.body as { by?: string }).by);
}

export function who(entry: Entry, names: Names): string {
  const { actor } = entry;
  switch (actor.is) {
    case "person":
      return names.person(actor.person) + (actor.coverFor ? ` for ${names.person(actor.coverFor)}` : "");
    case "automation":
      return `the action ${actor.action}`;
    case "clock":
      return "the clock";
    case "outside":
      return names.source ? names.source(actor.party) : actor.party;
    case "system":
      return "the system";
  }
}

/** By what a change names all that was wished of a CI: no field is called so. */
const WISH = "wished values";

export function changes(changed: Record<string, Change> | undefined, names: Names, ci = false): [string, string][] {
  return Object.entries(changed ?? {}).map(([name, change]) => {
    if (ci && name === WISH) {
      const values = Object.entries((change.after ?? {}) as Record<string, unknown>);
      const words = changes(Object.fromEntries(values.map(([of, value]) => [of, { after: value }])), names, true);
      return ["CI: as it was wished", words.map(([of, value]) => `${of.replace("CI: ", "")} ${value}`).join(" · ")];
    }
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
    return [
      `${ci ? "CI: " : ""}${field?.label ?? name}`,
      change.before === undefined ? say(change.after) : `${say(change.before)} → ${say(change.after)}`,
    ];
  });
}

/** Values by their names. */
export const valueRows = (values: Record<string, unknown> | undefined): [string, string, unknown][] =>
  Object.entries(values ?? {}).map(([k, v]) => [k, valueWords(v), v]);

/** How people call a field, by its path. */
const fieldOf = (names: Names) => (path: string) => {
  const name = path.slice(path.indexOf(".") + 1);
  const fields = path.startsWith("ticket.") ? names.directory?.fields : names.directory?.ciFields;
  return /^(ticket|ci)\./.test(path) ? fields?.find((f) => f.name === name)?.label : undefined;
};

export function conditionRow(c: Explained, names: Names): [string, string] {
  const label = fieldOf(names);
  const seen = c.clauses.flatMap((x) => Object.entries(x.seen).map(([k, v]) => seenWords(k, v, valueWords(v), label)));
  return [c.verdict, `${conditionWords(c.condition, label)} (${seen.join(", ")})`];
}
