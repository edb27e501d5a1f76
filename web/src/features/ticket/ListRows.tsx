import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Entry, ListLine, ListView } from "../../api/types";
import { Trouble } from "../../ui/kit";
import { span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { columnsOf, isTable } from "../../ui/ValueTable";
import { valueWords } from "./words";

/** Rows that are drawn at first, in the order of the list. */
const FIRST = 25;
const MOST_COLUMNS = 5;

/** Whether a workflow begins to go through a list here. */
export const isList = (entry: Entry) =>
  entry.kind === "bracketOpened" && (entry.body as { bracket?: string }).bracket === "for each";

/** The lists that a ticket's workflows are at, row by row; nothing where none is. */
export function ListsUnderWay({ ticket }: { ticket: string }) {
  const lists = useQuery({
    queryKey: ["ticket", ticket, "lists"],
    queryFn: () => api.get<ListLine[]>(`/api/tickets/${ticket}/lists`),
  });
  if (!lists.data?.length) return null;
  return (
    <section aria-label="Lists that are gone through" className="flex flex-col gap-2 px-5 pt-4">
      {lists.data.map((l) => (
        <div key={l.visit} className="rounded-xl border border-hairline bg-sheet px-4 py-2.5">
          <p className="mb-1">
            <strong>{l.name}</strong> <span className="text-ink-2">{countWords(l)}</span>
          </p>
          <Rows ticket={ticket} visit={l.visit} />
        </div>
      ))}
    </section>
  );
}

/** "4 of 7 done, 1 failed, 2 under way". */
export function countWords(l: ListLine): string {
  return [
    `${l.done} of ${l.count} done`,
    l.failed > 0 ? `${l.failed} failed` : "",
    l.underWay > 0 ? `${l.underWay} under way` : "",
  ]
    .filter(Boolean)
    .join(", ");
}

/** What became of each item of a list, for whoever asks. */
export function RowsOnDemand({ ticket, visit }: { ticket: string; visit: string }) {
  const [shown, setShown] = useState(false);
  return (
    <>
      <button type="button" className="link text-sm" aria-expanded={shown} onClick={() => setShown(!shown)}>
        {shown ? "hide the rows" : "row by row"}
      </button>
      {shown && <Rows ticket={ticket} visit={visit} />}
    </>
  );
}

type Row = ListView["rows"][number];

const TONE: Partial<Record<Row["state"], string>> = {
  done: "text-well",
  failed: "font-semibold text-late",
  stalled: "font-semibold text-late",
};

/** Marks beside the words, so that a glance down the column tells them apart without colours. */
const MARK: Record<Row["state"], string> = {
  waits: "·",
  "under way": "▸",
  stalled: "▲",
  done: "✓",
  failed: "✕",
  "not done": "–",
};

function Rows({ ticket, visit }: { ticket: string; visit: string }) {
  const now = useNow();
  const [all, setAll] = useState(false);
  const list = useQuery({
    queryKey: ["ticket", ticket, "lists", visit],
    queryFn: () => api.get<ListView>(`/api/tickets/${ticket}/lists/${encodeURIComponent(visit)}`),
  });
  if (list.isLoadingError) return <Trouble error={list.error} onRetry={() => list.refetch()} />;
  if (!list.data) return <p className="text-sm text-ink-2">The rows are read…</p>;
  const rows = list.data.rows;
  const items = rows.map((r) => r.item);
  const columns = isTable(items) ? naming(columnsOf(items)).slice(0, MOST_COLUMNS) : undefined;
  const numbers = new Set(
    (columns ?? []).filter((c) => items.every((i) => typeof (i as Record<string, unknown>)[c] === "number")),
  );
  const shown = all ? rows : rows.slice(0, FIRST);
  return (
    <div className="max-w-full overflow-auto">
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-ink-2">
            {(columns ?? ["item"]).map((c) => (
              <th key={c} scope="col" className={`pr-4 font-semibold ${numbers.has(c) ? "text-right" : ""}`}>
                {c}
              </th>
            ))}
            <th scope="col" className="pr-4 font-semibold">
              how it stands
            </th>
          </tr>
        </thead>
        <tbody>
          {shown.map((r, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the rows of a list never move
            <tr key={i} className="border-t border-hairline align-top">
              {columns ? (
                columns.map((c) => (
                  <td
                    key={c}
                    className={`max-w-60 pr-4 break-words ${numbers.has(c) ? "text-right whitespace-nowrap" : ""}`}
                  >
                    {cell((r.item as Record<string, unknown>)[c])}
                  </td>
                ))
              ) : (
                <td className="max-w-60 pr-4 break-words">
                  {r.item === undefined || r.item === null ? (
                    <span className="text-ink-2">redacted</span>
                  ) : (
                    valueWords(r.item)
                  )}
                </td>
              )}
              <td className={`wrap-anywhere ${TONE[r.state] ?? ""}`}>
                <span aria-hidden className="inline-block w-4">
                  {MARK[r.state]}
                </span>
                {standing(r, now)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > shown.length && (
        <button type="button" className="link text-sm" onClick={() => setAll(true)}>
          show all {rows.length} rows
        </button>
      )}
    </div>
  );
}

/** What names a row stands before what is said of it. */
function naming(columns: string[]): string[] {
  const names = NAMING.filter((n) => columns.includes(n));
  return [...names, ...columns.filter((c) => !NAMING.includes(c))];
}

const NAMING = ["name", "id"];

const cell = (value: unknown) => (value === undefined || value === null ? "" : valueWords(value));

/** "under way: Remove the file, for 12 s", "failed: the file is in use". */
function standing(r: Row, now: number): string {
  const since = r.since ? `, for ${span(now - new Date(r.since).getTime())}` : "";
  switch (r.state) {
    case "under way":
    case "stalled":
      return r.at.length > 0 ? `${r.state}: ${r.at.join(", ")}${since}` : r.state;
    case "failed":
      return `failed: ${r.why ?? r.result ?? ""}`;
    case "done":
      return r.result && r.result !== "done" ? r.result : "done";
    case "waits":
    case "not done":
      return r.state;
  }
}
