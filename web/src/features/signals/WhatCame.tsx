import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { SignalLine, SignalLines, SourceView } from "../../api/types";
import { Button, Empty, Trouble } from "../../ui/kit";
import { exact } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { RawAndMapped } from "./RawAndMapped";
import { at, becameWords } from "./words";

/** What came from a source, the newest first; before it, what was refused and why. */
export function WhatCame({
  source,
  lines,
  refused,
}: {
  source: string;
  lines: SignalLines;
  refused: SourceView["refused"];
}) {
  const now = useNow();
  const [open, setOpen] = useState<string>();
  const [before, setBefore] = useState<string[]>([]);
  return (
    <>
      {refused.length > 0 && (
        <section aria-label="Refused" className="mb-5">
          <h2 className="mb-1 font-bold">Refused at the door</h2>
          <ul className="max-w-3xl">
            {refused.slice(0, 8).map((r) => (
              <li key={r.minute + r.reason} className="flex gap-3 border-b border-hairline py-1 text-sm">
                <span className="w-24 shrink-0 text-ink-2" title={exact(r.minute)}>
                  {at(r.minute, now)}
                </span>
                <span className="w-14 shrink-0 text-right">{r.count} ×</span>
                <span className="w-32 shrink-0 font-semibold">{r.reason}</span>
                <span className="min-w-0 text-ink-2">{r.words}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {lines.lines.length === 0 && (
        <Empty title="Nothing has come yet">How to send says where to and how. What comes stands here at once.</Empty>
      )}
      <ul aria-label="What came" className="max-w-4xl">
        {lines.lines.map((line) => (
          <Line key={line.id} line={line} now={now} open={open === line.id} onOpen={setOpen} />
        ))}
        {before.map((id) => (
          <Earlier key={id} source={source} before={id} now={now} open={open} onOpen={setOpen} onMore={setBefore} />
        ))}
      </ul>
      {lines.more && before.length === 0 && (
        <Button className="mt-3" onClick={() => setBefore([String(lines.lines.at(-1)?.id)])}>
          Earlier ones
        </Button>
      )}
    </>
  );
}

function Earlier({
  source,
  before,
  now,
  open,
  onOpen,
  onMore,
}: {
  source: string;
  before: string;
  now: number;
  open?: string;
  onOpen: (id: string | undefined) => void;
  onMore: (next: (ids: string[]) => string[]) => void;
}) {
  const [asked, setAsked] = useState(false);
  const page = useQuery({
    queryKey: ["signals-of-source", source, before],
    queryFn: () => api.get<SignalLines>(`/api/signals?source=${source}&before=${before}`),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (page.isError) return <Trouble error={page.error} onRetry={() => page.refetch()} />;
  return (
    <>
      {page.data?.lines.map((line) => (
        <Line key={line.id} line={line} now={now} open={open === line.id} onOpen={onOpen} />
      ))}
      {page.data?.more && !asked && (
        <li className="mt-3">
          <Button
            onClick={() => {
              setAsked(true);
              onMore((ids) => [...ids, String(page.data.lines.at(-1)?.id)]);
            }}
          >
            Earlier ones
          </Button>
        </li>
      )}
    </>
  );
}

function Line({
  line,
  now,
  open,
  onOpen,
}: {
  line: SignalLine;
  now: number;
  open: boolean;
  onOpen: (id: string | undefined) => void;
}) {
  const queries = useQueryClient();
  const again = useMutation({
    mutationFn: () => api.post(`/api/signals/${line.id}/again`),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["signals-of-source"] }),
  });
  const lost = line.state === "not understood";
  return (
    <li className="border-b border-hairline py-1.5">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <button
          type="button"
          aria-expanded={open}
          className="grid min-w-0 flex-1 grid-cols-[96px_1fr] gap-x-3 text-left hover:bg-here"
          onClick={() => onOpen(open ? undefined : line.id)}
        >
          <span className="text-sm text-ink-2" title={exact(line.cameAt)}>
            {at(line.cameAt, now)}
          </span>
          <span className="min-w-0">
            <span className={lost ? "text-late" : ""}>
              {line.title ?? (lost ? "Not understood" : "Not looked at yet")}
            </span>{" "}
            <span className="text-sm text-ink-2">
              {[line.turn, line.severity].filter(Boolean).join(", ")} · {becameWords(line)}
            </span>
          </span>
        </button>
        {line.ticket && (
          <Link to="/tickets/$number" params={{ number: line.ticket }} className="link text-sm">
            {line.ticket}
          </Link>
        )}
        {lost && (
          <Button look="quiet" disabled={again.isPending} onClick={() => again.mutate()}>
            Look again
          </Button>
        )}
      </div>
      {again.isError && <Trouble error={again.error} />}
      {open && <RawAndMapped id={line.id} />}
    </li>
  );
}
