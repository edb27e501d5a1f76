/** A condition as rows of field, operator and value, and as an expression: two views of one thing (N13, N31). */

export type Operator =
  | "is"
  | "is not"
  | "is one of"
  | "above"
  | "at least"
  | "below"
  | "at most"
  | "contains"
  | "is known"
  | "is not known"
  | "holds"
  | "does not hold";

export interface Clause {
  /** The path that is looked at. */
  field: string;
  operator: Operator;
  /** As it stands in the expression: "ALD-G1" in quotes, 2, a list's content without brackets; empty where none is needed. */
  value: string;
}

/** What the rows cannot say stays as it was written. */
export interface Raw {
  raw: string;
}

export interface Group {
  join: "all" | "any";
  parts: Part[];
}

export type Part = Clause | Raw | Group;

export const OPERATORS: Operator[] = [
  "is",
  "is not",
  "is one of",
  "above",
  "at least",
  "below",
  "at most",
  "contains",
  "is known",
  "is not known",
  "holds",
  "does not hold",
];

const SIGNS: [string, Operator][] = [
  ["==", "is"],
  ["!=", "is not"],
  [">=", "at least"],
  ["<=", "at most"],
  [">", "above"],
  ["<", "below"],
];

const PATH = /^[A-Za-z_][A-Za-z0-9_]*(\.[A-Za-z_][A-Za-z0-9_]*)+$/;
const ANY_PATH = "[A-Za-z_][A-Za-z0-9_]*(?:\\.[A-Za-z_][A-Za-z0-9_]*)+";

/** Whether a value is another one that is known, and not said here. */
export const isPath = (value: string) => PATH.test(value.trim());

export const needsValue = (o: Operator) => !["is known", "is not known", "holds", "does not hold"].includes(o);

export const isGroup = (p: Part): p is Group => "join" in p;
export const isRaw = (p: Part): p is Raw => "raw" in p;

/** The rows of an expression; always possible, since what rows cannot say is kept as it is. */
export function readCondition(text: string): Group {
  if (!text.trim()) return { join: "all", parts: [] };
  const part = readPart(text);
  return isGroup(part) ? part : { join: "all", parts: [part] };
}

function readPart(text: string): Part {
  const plain = unwrapped(text);
  // In expressions "and" binds closer than "or".
  const any = pieces(plain, "||");
  if (any.length > 1) return { join: "any", parts: any.map(readPart) };
  const all = pieces(plain, "&&");
  if (all.length > 1) return { join: "all", parts: all.map(readPart) };
  return readClause(plain);
}

function readClause(text: string): Part {
  const known = new RegExp(`^(!?)has\\((${ANY_PATH})\\)$`).exec(text);
  if (known) return { field: known[2] ?? "", operator: known[1] ? "is not known" : "is known", value: "" };
  const contains = new RegExp(`^(${ANY_PATH})\\.contains\\((.+)\\)$`, "s").exec(text);
  if (contains && literal(contains[2] ?? ""))
    return { field: contains[1] ?? "", operator: "contains", value: contains[2] ?? "" };
  const one = new RegExp(`^(${ANY_PATH}) in \\[(.*)\\]$`, "s").exec(text);
  if (one && pieces(one[2] ?? "", ",").every(literal))
    return { field: one[1] ?? "", operator: "is one of", value: (one[2] ?? "").trim() };
  if (PATH.test(text)) return { field: text, operator: "holds", value: "" };
  if (text.startsWith("!") && PATH.test(text.slice(1).trim()))
    return { field: text.slice(1).trim(), operator: "does not hold", value: "" };
  for (const [sign, operator] of SIGNS) {
    const sides = pieces(text, sign);
    const [field = "", value = ""] = sides;
    if (sides.length === 2 && PATH.test(field) && (literal(value) || PATH.test(value)))
      return { field, operator, value };
  }
  return { raw: text };
}

const literal = (text: string) => /^("([^"\\]|\\.)*"|'([^'\\]|\\.)*'|-?\d+(\.\d+)?|true|false)$/s.test(text.trim());

/** Splits at a sign that stands neither in quotes nor in brackets. */
function pieces(text: string, sign: string): string[] {
  const all: string[] = [];
  let depth = 0;
  let quote = "";
  let from = 0;
  for (let i = 0; i < text.length; i++) {
    const c = text.charAt(i);
    if (quote) {
      if (c === "\\") i++;
      else if (c === quote) quote = "";
    } else if (c === '"' || c === "'") quote = c;
    else if ("([{".includes(c)) depth++;
    else if (")]}".includes(c)) depth--;
    else if (depth === 0 && text.startsWith(sign, i) && !longer(text, i, sign)) {
      all.push(text.slice(from, i).trim());
      i += sign.length - 1;
      from = i + 1;
    }
  }
  all.push(text.slice(from).trim());
  return all;
}

/** "<" is not the beginning of "<=". */
const longer = (text: string, at: number, sign: string) =>
  (sign === "<" || sign === ">") && text.charAt(at + 1) === "=";

/** Without brackets around the whole. */
function unwrapped(text: string): string {
  const plain = text.trim();
  if (!plain.startsWith("(") || !plain.endsWith(")")) return plain;
  let depth = 0;
  let quote = "";
  for (let i = 0; i < plain.length; i++) {
    const c = plain.charAt(i);
    if (quote) {
      if (c === "\\") i++;
      else if (c === quote) quote = "";
    } else if (c === '"' || c === "'") quote = c;
    else if (c === "(") depth++;
    else if (c === ")" && --depth === 0 && i < plain.length - 1) return plain;
  }
  return unwrapped(plain.slice(1, -1));
}

/** The expression of rows. */
export function writeCondition(group: Group): string {
  const sign = group.join === "all" ? " && " : " || ";
  return group.parts
    .map((p) => {
      // A row that is not filled in yet says nothing.
      if (!isGroup(p) && !isRaw(p) && needsValue(p.operator) && p.value.trim() === "") return "";
      if (!isGroup(p)) return isRaw(p) ? rawIn(p.raw, group) : writeClause(p);
      const inner = writeCondition(p);
      return p.parts.length > 1 && group.parts.length > 1 && inner ? `(${inner})` : inner;
    })
    .filter((t) => t !== "")
    .join(sign);
}

/** What has an "or" of its own must not fall apart beside an "and". */
const rawIn = (raw: string, group: Group) =>
  group.parts.length > 1 && (raw.includes("||") || raw.includes("?")) ? `(${unwrapped(raw)})` : raw;

function writeClause({ field, operator, value }: Clause): string {
  switch (operator) {
    case "is known":
      return `has(${field})`;
    case "is not known":
      return `!has(${field})`;
    case "holds":
      return field;
    case "does not hold":
      return `!${field}`;
    case "contains":
      return `${field}.contains(${value})`;
    case "is one of":
      return `${field} in [${value}]`;
    default: {
      const sign = SIGNS.find(([, o]) => o === operator)?.[0] ?? "==";
      return `${field} ${sign} ${value}`;
    }
  }
}

/** A value as people type it, as it stands in an expression: texts in quotes, numbers and yes or no bare. */
export function quoteValue(typed: string, type: string | undefined, operator: Operator): string {
  if (operator === "is one of")
    return typed
      .split(",")
      .map((one) => one.trim())
      .filter((one) => one !== "")
      .map((one) => quoteOne(one, type))
      .join(", ");
  return typed.trim() === "" ? "" : quoteOne(typed.trim(), type);
}

function quoteOne(typed: string, type: string | undefined): string {
  const number = type === "whole number" || type === "number";
  if (number && /^-?\d+(\.\d+)?$/.test(typed)) return typed;
  if (type === "yes or no" && /^(true|false)$/.test(typed)) return typed;
  if (type === undefined && literal(typed)) return typed;
  return JSON.stringify(typed);
}

/** A value of an expression as people type it. */
export function plainValue(value: string): string {
  return pieces(value, ",")
    .map((one) => {
      if (/^"([^"\\]|\\.)*"$/s.test(one)) {
        try {
          return JSON.parse(one) as string;
        } catch {
          return one;
        }
      }
      return /^'[^'\\]*'$/.test(one) ? one.slice(1, -1) : one;
    })
    .join(", ");
}
