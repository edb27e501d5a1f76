import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Slider } from "radix-ui";
import { useDeferredValue } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { RecordView, Then, Ticket } from "../../api/types";
import { Button, Loading, PageHead, Trouble } from "../../ui/kit";
import { Together } from "../../ui/Together";
import { clock, clockSeconds, day, exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { Facts } from "./Facts";
import { RecordStory } from "./RecordStory";
import { RunRoute } from "./RunProgress";
import { assignedWords } from "./words";

/**
 * A ticket as it stood after one of its entries (O10): its record so far, what was asked, its runs and fields. Nothing can be done
 * here; the address leads others to the same moment.
 */
export function AsItStood({
  ticket,
  record,
  seq,
  onMove,
  onNow,
}: {
  ticket: Ticket;
  record: RecordView;
  seq: number;
  onMove: (seq: number) => void;
  onNow: () => void;
}) {
  const names = useNames();
  const now = useNow();
  const last = record.entries.at(-1)?.seq ?? 1;
  const at = Math.min(Math.max(1, seq), last);
  const asked = useDeferredValue(at);
  const then = useQuery({
    queryKey: ["then", ticket.number, asked],
    queryFn: () => api.get<Then>(`/api/tickets/${ticket.number}/then/${asked}`),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
  });
  const entry = record.entries[at - 1];
  const t = then.data;
  if (then.isPending) return <Loading what="how it stood" />;
  const moved = (to: number) => onMove(Math.min(last, Math.max(1, to)));
  return (
    <>
      <PageHead
        title={ticket.title}
        sub={
          <span>
            <strong className="text-ink">{ticket.number}</strong> · {ticket.kind} ·{" "}
            <strong className="text-ink">{t?.state ?? "…"}</strong> then
          </span>
        }
      >
        <Button look="primary" onClick={onNow}>
          Back to now
        </Button>
      </PageHead>
      <section
        aria-label="As it stood"
        className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-b border-soon bg-selected px-5 py-2"
      >
        <p role="status" className="w-72 shrink-0">
          As it stood{" "}
          {entry && (
            <strong title={exact(entry.at)}>
              {day(entry.at)} {clockSeconds(entry.at)}
            </strong>
          )}
          <span className="text-ink-2">
            , after entry {at} of {last}
          </span>
        </p>
        <Button look="quiet" aria-label="One entry back" disabled={at <= 1} onClick={() => moved(at - 1)}>
          ←
        </Button>
        <Slider.Root
          className="relative flex h-6 min-w-48 flex-1 touch-none items-center select-none"
          min={1}
          max={Math.max(2, last)}
          step={1}
          value={[at]}
          onValueChange={([v]) => v !== undefined && moved(v)}
        >
          <Slider.Track className="relative h-1 flex-1 rounded-full bg-hairline">
            <Slider.Range className="absolute h-full rounded-full bg-pine" />
          </Slider.Track>
          <Slider.Thumb
            aria-label="Moment"
            aria-valuetext={entry ? `entry ${at}, ${day(entry.at)} ${clock(entry.at)}` : undefined}
            className="block size-4 rounded-full border-2 border-pine bg-sheet"
          />
        </Slider.Root>
        <Button look="quiet" aria-label="One entry on" disabled={at >= last} onClick={() => moved(at + 1)}>
          →
        </Button>
      </section>
      <div className="flex min-h-0 flex-1 flex-col overflow-auto lg:flex-row lg:overflow-hidden">
        <div className="min-w-0 flex-1 bg-sheet lg:overflow-auto">
          {t && t.asked.length > 0 && (
            <section aria-label="Asked then" className="border-b border-hairline p-5">
              <h2 className="mb-1 font-bold">Asked then</h2>
              <ul>
                {t.asked.map((a) => (
                  <li key={`${a.kind} ${a.name}`} className="py-0.5">
                    <strong>{a.name}</strong>{" "}
                    <span className="text-ink-2">
                      · {a.kind} · for {assignedWords(a.to, names)}
                      {a.claimedBy && `, taken by ${names.person(a.claimedBy)}`}
                      {a.due && `, until ${moment(a.due, now)}`}
                    </span>
                  </li>
                ))}
              </ul>
            </section>
          )}
          <RecordStory
            ticket={ticket}
            record={{ ...record, entries: record.entries.slice(0, at) }}
            onStep={() => undefined}
          />
        </div>
        <aside className="shrink-0 border-hairline p-5 max-lg:border-t lg:w-[340px] lg:overflow-auto lg:border-l">
          {then.isLoadingError && <Trouble error={then.error} onRetry={() => then.refetch()} />}
          <Together key={ticket.number}>
            {t?.runs.map((run) => (
              <section key={run.id} className="mb-6">
                <h2 className="mb-2">
                  <strong>{run.name}</strong> <span className="text-ink-2">{run.result ?? run.status}</span>
                </h2>
                <RunRoute run={run} at={new Date(t.at).getTime()} />
              </section>
            ))}
            {t && <Facts ticket={{ ...ticket, ci: undefined, fields: t.fields, parts: t.parts, state: t.state }} />}
          </Together>
        </aside>
      </div>
    </>
  );
}
