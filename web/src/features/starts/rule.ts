/** A rule as people choose it: one value that is read, compared with another. What cannot be chosen so is an expression. */
export interface Compared {
  value: string;
  how: string;
  than: string;
}

export const HOW: { value: string; label: string }[] = [
  { value: ">", label: "is over" },
  { value: ">=", label: "is at least" },
  { value: "<", label: "is under" },
  { value: "<=", label: "is at most" },
  { value: "==", label: "is" },
  { value: "!=", label: "is not" },
];

const RULE = /^\s*(read|row)\.(\w+)\s*(>=|<=|==|!=|>|<)\s*(.+?)\s*$/;

/** Whether a text is a plain value: a number, yes or no, or a text in quotes without quotes inside. */
const literal = (code: string) => /^(-?\d+(\.\d+)?|true|false|"[^"\\]*"|'[^'\\]*')$/.test(code);

/** Reads a rule; undefined where it is more than one comparison. @param root of what it is: what is read, or a row of it */
export function readRule(rule: string, root: "read" | "row" = "read"): Compared | undefined {
  const [, of, value, how, than] = RULE.exec(rule) ?? [];
  if (of !== root || !value || !how || !than || !literal(than)) return undefined;
  return { value, how, than: /^["']/.test(than) ? than.slice(1, -1) : than };
}

const PLAIN = /^(-?\d+(\.\d+)?|true|false)$/;

/** One over a member of a row, of which nobody says what type it has: what looks like a number is one. */
export const writeRowRule = (c: Compared) =>
  `row.${c.value} ${c.how} ${PLAIN.test(c.than.trim()) ? c.than.trim() : JSON.stringify(c.than)}`;

/** @param type of what is read */
export function writeRule(c: Compared, type: string | undefined): string {
  const plain = type === "whole number" || type === "number" || type === "yes or no";
  return `read.${c.value} ${c.how} ${plain ? c.than.trim() || "0" : JSON.stringify(c.than)}`;
}
