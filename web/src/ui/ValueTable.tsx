import { useState } from "react";

/** Rows that are shown at first; the others by a press. */
const FIRST = 10;
const MOST_COLUMNS = 8;

type Row = Record<string, unknown>;

/** Whether a value is a table: rows with names for what stands in them. */
export const isTable = (value: unknown): value is Row[] =>
  Array.isArray(value) &&
  value.length > 0 &&
  value.every((r) => r !== null && typeof r === "object" && !Array.isArray(r) && Object.keys(r).length > 0);

/** The names that stand in any of the rows, in the order in which they come. */
export function columnsOf(rows: Row[]): string[] {
  const all = new Set<string>();
  for (const row of rows) for (const name of Object.keys(row)) all.add(name);
  return [...all];
}

/** A table as people read it; numbers stand below each other, and how many rows there are is said. */
export function ValueTable({ rows, words }: { rows: Row[]; words: (value: unknown) => string }) {
  const [all, setAll] = useState(false);
  const columns = columnsOf(rows);
  const shown = columns.slice(0, MOST_COLUMNS);
  const numbers = new Set(shown.filter((c) => rows.every((r) => r[c] === undefined || typeof r[c] === "number")));
  const side = (c: string) => (numbers.has(c) ? "text-right" : "text-left");
  return (
    <div className="max-w-full overflow-auto">
      <table className="text-sm">
        <thead>
          <tr>
            {shown.map((c) => (
              <th key={c} scope="col" className={`pr-4 font-semibold text-ink-2 ${side(c)}`}>
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(all ? rows : rows.slice(0, FIRST)).map((row, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the rows of a value never move
            <tr key={i} className="border-t border-hairline">
              {shown.map((c) => (
                <td key={c} className={`max-w-80 pr-4 align-top wrap-anywhere ${side(c)}`}>
                  {row[c] === undefined ? "" : words(row[c])}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-xs text-ink-2">
        {rows.length === 1 ? "1 row" : `${rows.length} rows`}
        {columns.length > shown.length && `, ${columns.length - shown.length} more columns`}
        {!all && rows.length > FIRST && (
          <button type="button" className="link ml-2" onClick={() => setAll(true)}>
            show all
          </button>
        )}
      </p>
    </div>
  );
}
