import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { Matter, Matters, Traffic } from "../../api/types";
import { useKeys } from "../../ui/keys";
import { Button, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { MatterPane } from "./MatterPane";
import { TrafficBars } from "./TrafficBars";
import { asideWords, at, countWords, placed, sinceWords, standsWords, steadyOrder, toneOf } from "./words";

/** How often it is read again, in milliseconds: in a storm the last word matters more than every word. */
const AGAIN = 3_000;

/** What came in, what it did, and why: one row a matter, so that a storm of signals is still a page one can read. */
export function SignalsPage() {
  const { matter, only } = useSearch({ from: "/signals" });
  const navigate = useNavigate();
  const go = (next: { matter?: string; only?: "needing" }) => navigate({ to: "/signals", search: next, replace: true });
  const query = useQuery({
    queryKey: ["matters", only],
    queryFn: () => api.get<Matters>(`/api/matters${only ? "?only=needing" : ""}`),
    refetchInterval: AGAIN,
    placeholderData: keepPreviousData,
  });
  // Read more rarely than the rows, but at once when there is one more or fewer: the head must not deny what stands below it.
  const traffic = useQuery({
    queryKey: ["traffic", query.data?.matters.length, query.data?.needing],
    queryFn: () => api.get<Traffic>("/api/signals/traffic"),
    refetchInterval: AGAIN * 5,
    placeholderData: keepPreviousData,
    enabled: query.data !== undefined,
  });
  if (query.isPending) return <Loading what="what came in" />;
  if (query.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={query.error} onRetry={() => query.refetch()} />
      </div>
    );
  const came = traffic.data?.counts.reduce((a, b) => a + b, 0);
  const { needing } = query.data;
  return (
    <>
      <PageHead
        title="Signals"
        sub={
          <>
            {needing === 0 ? (
              "None needs somebody."
            ) : (
              <strong className="text-late">
                {needing === 1 ? "One matter needs" : `${needing} matters need`} somebody.
              </strong>
            )}
            {/* Last, so that nothing moves when it comes. */}
            {came !== undefined && ` ${countWords(came)} in the last six hours.`}
          </>
        }
      >
        <Button
          aria-pressed={!only}
          look={only ? "quiet" : "plain"}
          onClick={() => go({ ...(matter ? { matter } : {}) })}
        >
          Everything
        </Button>
        <Button
          aria-pressed={!!only}
          look={only ? "plain" : "quiet"}
          onClick={() => go({ ...(matter ? { matter } : {}), only: "needing" })}
        >
          What needs somebody
        </Button>
        <Link to="/sources" className="link self-center">
          Sources
        </Link>
      </PageHead>
      <TrafficBars traffic={traffic.data} />
      <div className="flex min-h-0 flex-1 flex-col overflow-auto lg:flex-row lg:overflow-hidden">
        <MatterList
          key={only ?? "all"}
          matters={query.data.matters}
          chosen={matter}
          onChoose={(key) => go({ matter: key, ...(only ? { only } : {}) })}
          nothing={
            only
              ? "Nothing needs somebody. What is taken care of stands under Everything."
              : "Nothing has come yet. A source says how its senders reach Dastur."
          }
        />
        {matter !== undefined && (
          <MatterPane
            key={matter}
            matter={query.data.matters.find((m) => m.key === matter)}
            name={matter}
            onClose={() => go({ ...(only ? { only } : {}) })}
          />
        )}
      </div>
    </>
  );
}

function MatterList({
  matters,
  chosen,
  onChoose,
  nothing,
}: {
  matters: Matter[];
  chosen?: string;
  onChoose: (key: string) => void;
  nothing: string;
}) {
  const now = useNow();
  const [shown, setShown] = useState(() => placed(matters));
  const { live, explained, over, fresh, turned } = steadyOrder(matters, shown);
  // Into an empty list nothing can jump.
  useEffect(() => {
    if (shown.length === 0 && matters.length > 0) setShown(placed(matters));
  }, [shown.length, matters]);
  const all = [...live, ...explained, ...over];
  const move = (by: number) => {
    const from = all.findIndex((m) => m.key === chosen);
    const next = all[Math.min(Math.max(from + by, 0), all.length - 1)];
    if (next) onChoose(next.key);
  };
  useKeys({ j: () => move(1), k: () => move(-1) });
  if (matters.length === 0) return <Empty title="Nothing here">{nothing}</Empty>;
  const row = (m: Matter) => (
    <Row key={m.key} matter={m} now={now} chosen={m.key === chosen} onChoose={() => onChoose(m.key)} />
  );
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by keys
    <div tabIndex={0} className="min-w-0 flex-1 bg-sheet lg:overflow-auto">
      {fresh.length + turned.length > 0 && (
        <div role="status" className="border-b border-soon bg-selected px-4 py-1.5">
          <button type="button" className="link" onClick={() => setShown(placed(matters))}>
            {sinceWords(fresh.length, turned.length)}: show
          </button>
        </div>
      )}
      <ul aria-label="Matters">{live.map(row)}</ul>
      {explained.length > 0 && (
        <>
          <h2 className="border-b border-hairline px-4 pt-4 pb-1 text-xs text-ink-2">
            explained by something else: nothing is opened for these
          </h2>
          <ul aria-label="Matters that something else explains">{explained.map(row)}</ul>
        </>
      )}
      {over.length > 0 && (
        <>
          <h2 className="border-b border-hairline px-4 pt-4 pb-1 text-xs text-ink-2">well again</h2>
          <ul aria-label="Matters that are well again">{over.map(row)}</ul>
        </>
      )}
    </div>
  );
}

const TONES = { late: "text-late", soon: "text-soon", plain: "text-ink-2" };

function Row({
  matter: m,
  now,
  chosen,
  onChoose,
}: {
  matter: Matter;
  now: number;
  chosen: boolean;
  onChoose: () => void;
}) {
  return (
    <li className={`border-b border-hairline ${chosen ? "bg-selected" : ""}`}>
      <button
        type="button"
        aria-current={chosen ? "true" : undefined}
        className="grid w-full grid-cols-[76px_1fr_auto] gap-x-3 px-4 py-2 text-left hover:bg-here"
        onClick={onChoose}
      >
        <span title={exact(m.lastAt)} className={`font-semibold ${TONES[toneOf(m)]}`}>
          {at(m.lastAt, now)}
        </span>
        <span className="min-w-0">
          <span className={`block truncate ${m.inFault.length > 0 ? "font-semibold" : ""}`}>{m.title}</span>
          <span className="block text-sm text-ink-2">
            {standsWords(m)}
            {m.ticket && (
              <>
                {" · "}
                <span className="text-ink">{m.ticket}</span> {m.state}
                {m.under && `, follows from ${m.under}`}
                {m.run && `, ${m.run} is under way`}
              </>
            )}
            {m.aside && (
              <>
                {" · "}
                <span className="text-ink">{m.aside.ticket}</span> {asideWords(m.aside)}
              </>
            )}
          </span>
        </span>
        <span className="text-right text-sm text-ink-2">
          {countWords(m.count)}
          <span className="block">since {at(m.since, now)}</span>
        </span>
      </button>
    </li>
  );
}
