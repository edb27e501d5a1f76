import type { Action, Field } from "../../api/types";

/** A JSON Pointer (RFC 6901) one step further. */
export const under = (pointer: string, key: string | number) =>
  `${pointer}/${String(key).replaceAll("~", "~0").replaceAll("/", "~1")}`;

const WORDS = /[^A-Za-z0-9]+/;

/** A name that can stand in an expression, from where a value stands: "/job/lock number" is lockNumber. */
export function nameFor(pointer: string, taken: string[]): string {
  const last = pointer.split("/").at(-1)?.replaceAll("~1", "/").replaceAll("~0", "~") ?? "";
  const parts = last.split(WORDS).filter(Boolean);
  const camel = parts.map((p, i) => (i === 0 ? p[0]?.toLowerCase() : p[0]?.toUpperCase()) + p.slice(1)).join("");
  const base = /^[A-Za-z]/.test(camel) ? camel : `value${camel}`;
  let name = base;
  for (let n = 2; taken.includes(name); n++) name = `${base}${n}`;
  return name;
}

/** What kind of field a value is. */
export function typeFor(value: unknown): Field["type"] {
  if (typeof value === "boolean") return "yes or no";
  if (typeof value === "number") return Number.isInteger(value) ? "whole number" : "number";
  if (Array.isArray(value)) return "list";
  if (typeof value === "string") return value.length > 200 || value.includes("\n") ? "long text" : "text";
  return "any value";
}

/** An action that also reads the value at a place of its answer. */
export function withOutput(action: Action, pointer: string, value: unknown): Action {
  const name = nameFor(
    pointer,
    action.outputs.map((o) => o.field.name),
  );
  const label = name.replace(/([A-Z])/g, " $1").replace(/^./, (c) => c.toUpperCase());
  return {
    ...action,
    outputs: [...action.outputs, { field: { name, label, type: typeFor(value), required: false }, pointer }],
  };
}
