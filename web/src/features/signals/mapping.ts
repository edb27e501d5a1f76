import type { Mapping, MappingRow } from "../../api/types";

/** What rows can set, as people call it, in the order in which one asks. */
export const TARGETS: { to: MappingRow["to"]; label: string; help: string }[] = [
  { to: "sort", label: "sort", help: "a fault, that it has recovered, or news" },
  { to: "severity", label: "severity", help: "critical, major, minor, warning, indeterminate or cleared" },
  { to: "ci", label: "CI", help: "what it speaks of" },
  { to: "what", label: "what is the matter", help: "with the CI it makes the matter: what counts as the same fault" },
  { to: "title", label: "title", help: "one line for the ticket" },
  { to: "text", label: "text", help: "what the sender says of it" },
  { to: "link", label: "link", help: "where more is to be seen" },
  { to: "at", label: "happened at", help: "a time; left out, the time of receipt" },
  { to: "service", label: "service", help: "its id; left out, that of the CI" },
  { to: "matter", label: "matter", help: "what makes two the same; left out, the CI and what is the matter" },
  { to: "key", label: "key", help: "by what a waiting step is told" },
];

export const labelOf = (row: Pick<MappingRow, "to" | "name">): string =>
  row.to === "value" ? (row.name ?? "a value") : (TARGETS.find((t) => t.to === row.to)?.label ?? row.to);

/** What is not said yet. */
export const missing = (mapping: Mapping) => TARGETS.filter((t) => !mapping.rows.some((r) => r.to === t.to));

/** A leaf of what came, with where it stands. */
export interface Leaf {
  /** JSON Pointer (RFC 6901). */
  pointer: string;
  name: string;
  value: unknown;
  depth: number;
}

const step = (key: string) => key.replace(/~/g, "~0").replace(/\//g, "~1");

/** All that stands in a payload, in its order; lists by their first items only, since a mapping names a place. */
export function leaves(raw: unknown, pointer = "", name = "", depth = 0): Leaf[] {
  if (raw === null || typeof raw !== "object") return [{ pointer, name, value: raw, depth }];
  const entries = Array.isArray(raw) ? raw.slice(0, 3).map((v, i) => [String(i), v]) : Object.entries(raw);
  const inner = (entries as [string, unknown][]).flatMap(([key, value]) =>
    leaves(value, `${pointer}/${step(key)}`, key, depth + 1),
  );
  return pointer === "" ? inner : [{ pointer, name, value: undefined, depth }, ...inner];
}

/** A name that an own value can bear, made of a key as senders write it: picture_age_s is pictureAgeS. */
export function nameFor(key: string, taken: string[]): string {
  const words = key.split(/[^A-Za-z0-9]+/).filter((w) => w !== "");
  const joined = words
    .map((w, i) => (i === 0 ? w.charAt(0).toLowerCase() + w.slice(1) : w.charAt(0).toUpperCase() + w.slice(1)))
    .join("")
    .slice(0, 36);
  const base = /^[A-Za-z]/.test(joined) ? joined : `value${joined}`;
  const reserved = [...TARGETS.map((t) => t.to as string), "source", "id", ...taken];
  if (!reserved.includes(base)) return base;
  let n = 2;
  while (reserved.includes(`${base}${n}`)) n++;
  return `${base}${n}`;
}

/** The type that a value as it came is of. */
export function typeFor(value: unknown): MappingRow["type"] {
  if (typeof value === "number") return Number.isInteger(value) ? "whole number" : "number";
  if (typeof value === "boolean") return "yes or no";
  return typeof value === "string" && /^\d{4}-\d\d-\d\dT\d\d:\d\d/.test(value) ? "time" : "text";
}

/** The mapping with one row changed. */
export const changed = (mapping: Mapping, index: number, row: MappingRow): Mapping => ({
  rows: mapping.rows.map((r, i) => (i === index ? row : r)),
});

/**
 * What a click on a value does: the row that is being edited takes it from there, else a value of one's own does.
 *
 * @returns the mapping, and which row is then edited
 */
export function taking(mapping: Mapping, editing: number | undefined, leaf: Leaf): [Mapping, number] {
  const row = editing === undefined ? undefined : mapping.rows[editing];
  if (row && editing !== undefined)
    return [changed(mapping, editing, { ...row, from: { is: "at", pointer: leaf.pointer } }), editing];
  const there = mapping.rows.findIndex((r) => r.from.is === "at" && r.from.pointer === leaf.pointer);
  if (there >= 0) return [mapping, there];
  const names = mapping.rows.flatMap((r) => (r.name ? [r.name] : []));
  const value: MappingRow = {
    to: "value",
    name: nameFor(leaf.name, names),
    type: typeFor(leaf.value),
    from: { is: "at", pointer: leaf.pointer },
  };
  return [{ rows: [...mapping.rows, value] }, mapping.rows.length];
}

/** What lines of syslog say by themselves (RFC 5424): errors are faults, all else is news until somebody says otherwise. */
export const OF_SYSLOG: Mapping = {
  rows: [
    {
      to: "sort",
      from: { is: "at", pointer: "/severity" },
      table: { "0": "fault", "1": "fault", "2": "fault", "3": "fault" },
      otherwise: "news",
    },
    {
      to: "severity",
      from: { is: "at", pointer: "/severity" },
      table: { "0": "critical", "1": "critical", "2": "critical", "3": "major", "4": "warning" },
      otherwise: "indeterminate",
    },
    { to: "ci", from: { is: "at", pointer: "/host" } },
    { to: "what", from: { is: "at", pointer: "/message" } },
    { to: "title", from: { is: "at", pointer: "/text" } },
    { to: "text", from: { is: "at", pointer: "/text" } },
    { to: "at", from: { is: "at", pointer: "/time" } },
  ],
};

/** What a mail says by itself: news with its subject, until somebody says which words of it mean what. */
export const OF_MAIL: Mapping = {
  rows: [
    {
      to: "sort",
      from: { is: "at", pointer: "/subject" },
      part: "^\\W*(FAILED|DOWN|RECOVERED|UP)\\b",
      table: { FAILED: "fault", DOWN: "fault", RECOVERED: "recovered", UP: "recovered" },
      otherwise: "news",
    },
    { to: "what", from: { is: "at", pointer: "/subject" } },
    { to: "title", from: { is: "at", pointer: "/subject" } },
    { to: "text", from: { is: "at", pointer: "/text" } },
  ],
};

/** What a new source understands before anybody has said anything: senders that speak our own words are understood at once. */
export const FIRST: Mapping = {
  rows: [
    { to: "sort", from: { is: "at", pointer: "/data/sort" } },
    { to: "severity", from: { is: "at", pointer: "/data/severity" } },
    { to: "ci", from: { is: "at", pointer: "/data/ci" } },
    { to: "what", from: { is: "at", pointer: "/data/what" } },
    { to: "title", from: { is: "at", pointer: "/data/title" } },
    { to: "text", from: { is: "at", pointer: "/data/text" } },
  ],
};
