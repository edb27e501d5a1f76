import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Stretch, WatchReadings } from "../../api/types";
import { Button, Loading, Trouble } from "../../ui/kit";
import { clockSeconds, exact, moment, sameDay, shortDay, span } from "../../ui/time";
import { saidTone, saidWords, valuesWords } from "./words";

/** What a watch saw: readings in a row that said the same are one, which opens to each of them. */
export function Stretches({ watch, stretches, now }: { watch: string; stretches: Stretch[]; now: number }) {
  return (
    <ul>
      {stretches.map((s, i) => (
        <Row key={s.from} watch={watch} stretch={s} goesOn={i === 0} now={now} />
      ))}
    </ul>
  );
}

interface RowProps {
  watch: string;
  stretch: Stretch;
  /** Whether the next reading may still belong to it. */
  goesOn: boolean;
  now: number;
}

function Row({ watch, stretch: s, goesOn, now }: RowProps) {
  const [open, setOpen] = useState(false);
  return (
    <li className="border-b border-hairline py-1.5">
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        <span className="w-44 shrink-0 text-ink-2" title={exact(s.from)}>
          {moment(s.from, now)}
          {s.count > 1 && ` – ${moment(s.to, now)}`}
        </span>
        <span className={`w-40 shrink-0 ${saidTone(s.said)}`}>{saidWords(s.said)}</span>
        <span className="w-40 shrink-0 text-ink-2">
          {s.count === 1
            ? "once"
            : `${s.count} times in ${span(new Date(s.to).getTime() - new Date(s.from).getTime())}`}
        </span>
        <span className="min-w-0 flex-1 text-sm">{s.note ?? valuesWords(s.values, s.extremes.numbers)}</span>
        {s.count > 1 && (
          <button
            type="button"
            aria-expanded={open}
            aria-label={`Each reading since ${moment(s.from, now)}`}
            className="link shrink-0 self-baseline text-sm"
            onClick={() => setOpen(!open)}
          >
            Each reading
          </button>
        )}
      </div>
      {open && <Readings watch={watch} stretch={s} goesOn={goesOn} now={now} />}
    </li>
  );
}

/** The readings of a stretch one by one, as far back as they are kept. */
function Readings({ watch, stretch, goesOn, now }: RowProps) {
  const readings = useInfiniteQuery({
    // Asked anew when it has ended: what was read while it went on may reach beyond it.
    queryKey: ["watch-readings", watch, stretch.from, goesOn],
    queryFn: ({ pageParam }) => {
      const query = new URLSearchParams({ from: stretch.from });
      if (pageParam) query.set("before", pageParam);
      return api.get<WatchReadings>(`/api/watches/${watch}/readings?${query}`);
    },
    // Its last reading belongs to it: what is asked for lies before a moment.
    initialPageParam: goesOn ? "" : justAfter(stretch.to),
    getNextPageParam: (page) => (page.more ? page.readings.at(-1)?.at : undefined),
    refetchInterval: goesOn ? 5_000 : false,
  });
  if (readings.isPending) return <Loading what="the readings" />;
  if (readings.isLoadingError) return <Trouble error={readings.error} onRetry={() => readings.refetch()} />;
  const pages = readings.data.pages;
  // The next stretch may have begun before the list of stretches tells so.
  const all = pages.flatMap((p) => p.readings).filter((r) => r.said === stretch.said);
  const keptSince = pages.at(-1)?.keptSince ?? stretch.from;
  return (
    <div className="mt-1 ml-4 border-l border-hairline pl-4 text-sm">
      <ol aria-label="Each reading">
        {all.map((r) => (
          <li key={r.at} className="flex gap-x-4 py-0.5">
            <time className="w-40 shrink-0 text-ink-2" dateTime={r.at} title={exact(r.at)}>
              {!sameDay(r.at, new Date(now).toISOString()) && `${shortDay(r.at)} `}
              {clockSeconds(r.at)}
            </time>
            <span className="min-w-0 flex-1">{r.note ?? valuesWords(r.values)}</span>
          </li>
        ))}
      </ol>
      {readings.isFetchNextPageError && <Trouble error={readings.error} />}
      {readings.hasNextPage ? (
        <Button look="quiet" disabled={readings.isFetchingNextPage} onClick={() => readings.fetchNextPage()}>
          Earlier
        </Button>
      ) : (
        stretch.from < keptSince && (
          <p className="py-1 text-ink-2">Single readings are kept for seven days; what was before stands as one.</p>
        )
      )}
    </div>
  );
}

const justAfter = (at: string) => new Date(new Date(at).getTime() + 1).toISOString();
