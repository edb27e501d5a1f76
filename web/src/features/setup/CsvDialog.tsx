import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { CsvResult } from "../../api/types";
import { Button, Chip, Dialog, TextArea, Trouble } from "../../ui/kit";

const TONES = { new: "well", changed: "soon", same: "plain", wrong: "late" } as const;

/** Takes CIs over from CSV. */
export function CsvDialog({ onClose }: { onClose: () => void }) {
  return (
    <FromCsv
      what="CIs"
      at="/api/files/cis"
      columns="id, name, kind, service, site, address, owner, life, and your own attributes"
      stale={["cis"]}
      onClose={onClose}
    />
  );
}

/** Takes accounts over from CSV. Nobody signs in by it: passwords are given one by one. */
export function PeopleCsvDialog({ onClose }: { onClose: () => void }) {
  return (
    <FromCsv
      what="people"
      at="/api/files/people"
      columns="id, name, mail, roles, groups, manager, open; several roles or groups stand between semicolons, and groups go by their short names"
      stale={["people", "directory", "catalogue"]}
      onClose={onClose}
    />
  );
}

/** First what a file would do, row by row, then for good. */
function FromCsv({
  what,
  at,
  columns,
  stale,
  onClose,
}: {
  what: string;
  at: string;
  columns: string;
  /** What is to be read again afterwards. */
  stale: string[];
  onClose: () => void;
}) {
  const queries = useQueryClient();
  const [csv, setCsv] = useState("");
  const look = useMutation({ mutationFn: () => api.post<CsvResult>(at, { csv, dryRun: true }) });
  const take = useMutation({
    mutationFn: () => api.post<CsvResult>(at, { csv, dryRun: false }),
    onSuccess: () => {
      for (const key of stale) queries.invalidateQueries({ queryKey: [key] });
      onClose();
    },
  });
  const result = look.data;
  const news = (result?.made ?? 0) + (result?.changed ?? 0);
  return (
    <Dialog title={`${what === "CIs" ? "CIs" : "People"} from CSV`} open onClose={onClose} wide>
      <div className="flex flex-col gap-3">
        <p className="text-sm text-ink-2">
          The first line names the columns: {columns}. A column that is missing leaves what is there; an empty cell
          clears it.{" "}
          <a className="link" href={at} download>
            All present {what} as CSV
          </a>
        </p>
        <input
          type="file"
          accept=".csv,text/csv"
          aria-label="A CSV file"
          onChange={async (e) => {
            const file = e.target.files?.[0];
            if (file) {
              setCsv(await file.text());
              look.reset();
            }
          }}
        />
        <TextArea
          label="or its text"
          rows={6}
          className="font-mono text-xs"
          value={csv}
          onChange={(e) => {
            setCsv(e.target.value);
            look.reset();
          }}
        />
        {(look.isError || take.isError) && <Trouble error={look.error ?? take.error} />}
        {result && (
          <>
            <p role="status">
              {result.made} new, {result.changed} changed, {result.same} as they are
              {result.wrong > 0 && <strong className="text-late">, {result.wrong} wrong</strong>}
            </p>
            <ul className="max-h-64 overflow-auto rounded-lg border border-hairline">
              {result.rows
                .filter((r) => r.becomes !== "same")
                .slice(0, 200)
                .map((r) => (
                  <li key={r.line} className="flex items-baseline gap-2 border-b border-hairline px-2 py-1 text-sm">
                    <span className="w-14 shrink-0 text-ink-2">line {r.line}</span>
                    <Chip tone={TONES[r.becomes as keyof typeof TONES]}>{r.becomes}</Chip>
                    <span className="font-mono text-xs">{r.id}</span>
                    <span className="min-w-0">{r.detail}</span>
                  </li>
                ))}
            </ul>
          </>
        )}
        <div className="flex gap-2">
          <Button look={result ? "plain" : "primary"} disabled={!csv || look.isPending} onClick={() => look.mutate()}>
            See what it would do
          </Button>
          {result && (
            <Button
              look="primary"
              disabled={take.isPending || result.wrong > 0 || news === 0}
              onClick={() => take.mutate()}
            >
              Take {news} over
            </Button>
          )}
        </div>
      </div>
    </Dialog>
  );
}
