/** Small forms that write the expression for common work on data, so that nobody has to know it (N17). */

export interface Blank {
  name: string;
  label: string;
  start: string;
  /** How the typed value stands in the expression. */
  as: "expression" | "text" | "number";
}

export interface Helper {
  key: string;
  says: string;
  blanks: Blank[];
  write: (v: (name: string) => string) => string;
}

const list: Blank = { name: "list", label: "The list", start: "steps.list.certificates", as: "expression" };
const column: Blank = { name: "column", label: "Its column", start: "days", as: "number" };
const named: Blank = { name: "named", label: "Its column", start: "days", as: "text" };
const text: Blank = { name: "text", label: "The text", start: "ticket.description", as: "expression" };

const COMPARE: Blank = { name: "sign", label: "is (<, <=, >, >=, ==, !=)", start: "<", as: "number" };

export const HELPERS: Helper[] = [
  {
    key: "split",
    says: "a part of a text, split at a sign",
    blanks: [
      text,
      { name: "at", label: "Split at", start: ",", as: "text" },
      { name: "part", label: "Take part number", start: "1", as: "number" },
    ],
    write: (v) => `trim(cell(split(${v("text")}, ${v("at")}), ${index(v("part"))}))`,
  },
  {
    key: "line",
    says: "a line of a text",
    blanks: [text, { name: "part", label: "Line number", start: "1", as: "number" }],
    write: (v) => `trim(cell(lines(${v("text")}), ${index(v("part"))}))`,
  },
  {
    key: "keep",
    says: "rows that fulfil a condition",
    blanks: [list, column, COMPARE, { name: "limit", label: "than / as", start: "21", as: "expression" }],
    write: (v) => `${v("list")}.filter(row, row.${v("column")} ${v("sign")} ${v("limit")})`,
  },
  {
    key: "count",
    says: "how many rows fulfil a condition",
    blanks: [list, column, COMPARE, { name: "limit", label: "than / as", start: "21", as: "expression" }],
    write: (v) => `size(${v("list")}.filter(row, row.${v("column")} ${v("sign")} ${v("limit")}))`,
  },
  { key: "size", says: "how many rows there are", blanks: [list], write: (v) => `size(${v("list")})` },
  {
    key: "cell",
    says: "one cell of a table",
    blanks: [list, { name: "row", label: "Row number", start: "1", as: "number" }, column],
    write: (v) => `cell(${v("list")}, ${index(v("row"))}).${v("column")}`,
  },
  {
    key: "column",
    says: "one column of a table, as a list",
    blanks: [list, column],
    write: (v) => `${v("list")}.map(row, row.${v("column")})`,
  },
  {
    key: "sorted",
    says: "rows in the order of a column",
    blanks: [list, named],
    write: (v) => `sorted(${v("list")}, ${v("named")})`,
  },
  {
    key: "most",
    says: "the rows with the most in a column",
    blanks: [list, named, { name: "count", label: "How many", start: "3", as: "number" }],
    write: (v) => `first(reversed(sorted(${v("list")}, ${v("named")})), ${v("count")})`,
  },
  {
    key: "grouped",
    says: "how many rows there are of each value",
    blanks: [list, named],
    write: (v) => `grouped(${v("list")}, ${v("named")})`,
  },
  {
    key: "paired",
    says: "rows with the CI that they are about",
    blanks: [
      list,
      { name: "named", label: "Its column of ids", start: "device", as: "text" },
      { name: "cis", label: "The CIs", start: "near.all", as: "expression" },
    ],
    write: (v) => `paired(${v("list")}, ${v("named")}, ${v("cis")}, "id")`,
  },
  {
    key: "join",
    says: "a column as one text",
    blanks: [list, column, { name: "between", label: "Between them", start: ", ", as: "text" }],
    write: (v) => `join(${v("list")}.map(row, row.${v("column")}), ${v("between")})`,
  },
  {
    key: "sum",
    says: "the sum of a column",
    blanks: [list, column],
    write: (v) => `sum(${v("list")}.map(row, row.${v("column")}))`,
  },
  {
    key: "difference",
    says: "the difference of two numbers",
    blanks: [
      { name: "a", label: "From", start: "steps.after.count", as: "expression" },
      { name: "b", label: "take away", start: "steps.before.count", as: "expression" },
    ],
    write: (v) => `number(${v("a")}) - number(${v("b")})`,
  },
  {
    key: "share",
    says: "the share of one number in another",
    blanks: [
      { name: "a", label: "The part", start: "steps.renew.succeeded", as: "expression" },
      { name: "b", label: "of the whole", start: "steps.renew.count", as: "expression" },
    ],
    write: (v) => `share(${v("a")}, ${v("b")})`,
  },
  {
    key: "otherwise",
    says: "a value, or another one where it is absent",
    blanks: [
      { name: "a", label: "The value", start: "ticket.ci", as: "expression" },
      { name: "b", label: "or else", start: "unknown", as: "text" },
    ],
    write: (v) => `has(${v("a")}) ? ${v("a")} : ${v("b")}`,
  },
];

/** Cells are counted from one. */
const index = (n: string) => String(Math.max(1, Number.parseInt(n, 10) || 1));

/** The expression of a filled form. */
export function helped(helper: Helper, values: Record<string, string>): string {
  return helper.write((name) => {
    const blank = helper.blanks.find((b) => b.name === name);
    const typed = values[name] ?? blank?.start ?? "";
    return blank?.as === "text" ? JSON.stringify(typed) : typed.trim();
  });
}
