import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { Matter, SignalLines, SignalView } from "../../api/types";
import { Button, Loading, Trouble } from "../../ui/kit";
import { Together } from "../../ui/Together";
import { exact } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { RawAndMapped } from "./RawAndMapped";
import { Told } from "./Told";
import { asideWords, at, becameWords, countWords, standsWords } from "./words";

/** A matter told: what is about it, what Dastur made of the signal by which it began, and what came since. */
export function MatterPane({ matter, name, onClose }: { matter?: Matter; name: string; onClose: () => void }) {
  const now = useNow();
  const key = encodeURIComponent(name);
  const [open, setOpen] = useState<string>();
  const why = useQuery({
    queryKey: ["matter-why", name, matter?.since],
    queryFn: () => api.get<SignalView>(`/api/matters/why?matter=${key}`),
    retry: false,
  });
  const lines = useQuery({
    queryKey: ["signals-of", name, matter?.count],
    queryFn: () => api.get<SignalLines>(`/api/signals?matter=${key}`),
    placeholderData: (before) => before,
  });
  const first = why.data;
  return (
    <aside
      aria-label="The matter"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by keys
      tabIndex={0}
      className="shrink-0 border-hairline p-5 max-lg:border-t lg:w-[460px] lg:overflow-auto lg:border-l"
    >
      <div className="flex items-start gap-2">
        <h2 className="min-w-0 flex-1 text-base font-bold">{matter?.title ?? name}</h2>
        <Button look="quiet" aria-label="Close the matter" onClick={onClose}>
          ✕
        </Button>
      </div>
      {matter && (
        <p className="text-sm text-ink-2">
          {standsWords(matter)} <span title={exact(matter.since)}>since {at(matter.since, now)}</span> · last{" "}
          <span title={exact(matter.lastAt)}>{at(matter.lastAt, now)}</span> · {countWords(matter.count)}
        </p>
      )}
      {matter?.aside && (
        <p className="mt-2">
          <Link to="/tickets/$number" params={{ number: matter.aside.ticket }} className="link font-semibold">
            {matter.aside.ticket}
          </Link>{" "}
          {asideWords(matter.aside)}. Nothing is opened or started for it meanwhile.
        </p>
      )}
      {matter?.ticket && (
        <p className="mt-2">
          {matter.aside && "Before: "}
          <Link to="/tickets/$number" params={{ number: matter.ticket }} className="link font-semibold">
            {matter.ticket}
          </Link>{" "}
          is {matter.state}
          {matter.run && (
            <>
              ; <strong>{matter.run}</strong> is under way
            </>
          )}
          {matter.recoveryTold && ". It was told that this has recovered"}.
        </p>
      )}
      <Together>
        <section aria-label="What Dastur made of it" className="mt-4">
          <h3 className="mb-1 text-sm font-semibold text-ink-2">
            What Dastur made of it{" "}
            {first && <span className="font-normal">when it began, {at(first.line.cameAt, now)}</span>}
          </h3>
          {why.isPending && <Loading what="the reasons" />}
          {why.isError && <Trouble error={why.error} />}
          {first && <Told view={first} />}
        </section>
        <section aria-label="What came" className="mt-5">
          <h3 className="mb-1 text-sm font-semibold text-ink-2">What came</h3>
          {lines.isPending && <Loading what="the signals" />}
          {lines.isError && <Trouble error={lines.error} onRetry={() => lines.refetch()} />}
          <ul>
            {lines.data?.lines.map((line) => (
              <li key={line.id} className="border-b border-hairline py-1 text-sm">
                <button
                  type="button"
                  aria-expanded={open === line.id}
                  className="flex w-full gap-3 text-left hover:bg-here"
                  onClick={() => setOpen(open === line.id ? undefined : line.id)}
                >
                  <span className="w-14 shrink-0 text-ink-2" title={exact(line.cameAt)}>
                    {at(line.cameAt, now)}
                  </span>
                  <span className="min-w-0 flex-1">
                    {line.turn ?? line.state}
                    {line.severity && line.sort === "fault" && `, ${line.severity}`}
                  </span>
                  <span className="text-ink-2">{becameWords(line)}</span>
                </button>
                {open === line.id && <RawAndMapped id={line.id} />}
              </li>
            ))}
          </ul>
          {lines.data?.more && (
            <p className="mt-1 text-xs text-ink-2">Earlier ones stand on the page of their source.</p>
          )}
        </section>
      </Together>
    </aside>
  );
}
