import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { SubscriptionPageOf } from "../../api/types";
import { Button, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, left, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { administers, useSession } from "../signin/session";
import { SubscriptionDialog } from "./SubscriptionDialog";
import { deliveryWords, kindWords, standWords } from "./words";

interface Tried {
  outcome: "TAKEN" | "LATER" | "REFUSED" | "GONE";
  answer: string;
}

/** A subscription: how it stands, its secret, and what became of each event. */
export function SubscriptionPage() {
  const { key } = useParams({ from: "/subscriptions/$key" });
  const now = useNow();
  const { session } = useSession();
  const names = useNames();
  const queries = useQueryClient();
  const [changing, setChanging] = useState(false);
  const may = administers(session);
  const path = `/api/subscriptions/${key}`;
  const read = useQuery({
    queryKey: ["subscription", key],
    queryFn: () => api.get<SubscriptionPageOf>(path),
    refetchInterval: 3_000,
  });
  const stale = () => queries.invalidateQueries({ queryKey: ["subscription", key] });
  const trial = useMutation({ mutationFn: () => api.post<Tried>(`${path}/trial`) });
  const secret = useMutation({ mutationFn: () => api.post<{ secret: string }>(`${path}/secret`), onSuccess: stale });
  const again = useMutation({
    mutationFn: (event: string) => api.post<Tried>(`${path}/again`, { event }),
    onSuccess: stale,
  });
  if (read.isPending) return <Loading what="the subscription" />;
  if (read.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={read.error}>
          <Link to="/subscriptions" className="link">
            All subscriptions
          </Link>
        </Trouble>
      </div>
    );
  const { view, deliveries } = read.data;
  const s = view.subscription;
  const { words, tone } = standWords(view, (until) => left(until, now));
  return (
    <>
      <PageHead
        title={s.name}
        sub={
          <span className="flex flex-wrap gap-x-1.5">
            <span className={tone === "late" ? "font-semibold text-late" : ""}>{words}</span>
            <span>
              · {s.wanted.kinds.length === 0 ? "every entry" : s.wanted.kinds.map(kindWords).join(", ")} of{" "}
              {s.wanted.tickets.length === 0 ? "all tickets" : s.wanted.tickets.join(", ")} · with the rights of{" "}
              {names.person(s.as)}
            </span>
          </span>
        }
      >
        {may && (
          <Button disabled={trial.isPending} onClick={() => trial.mutate()}>
            Try its address
          </Button>
        )}
        {may && <Button onClick={() => setChanging(true)}>Change…</Button>}
        <Link to="/subscriptions" className="link self-center">
          All subscriptions
        </Link>
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        <p>
          Events go to <code className="font-mono text-sm break-all">{s.address}</code> as CloudEvents 1.0,{" "}
          {view.signs ? "signed as Standard Webhooks describes it." : "not signed yet: it has no secret."}{" "}
          {may && (
            <button type="button" className="link" disabled={secret.isPending} onClick={() => secret.mutate()}>
              {view.signs ? "Make another secret" : "Make a secret"}
            </button>
          )}
        </p>
        {secret.data && (
          <p role="status" className="mt-2 max-w-3xl rounded border border-soon bg-selected p-2">
            Copy it now, it is not shown again:{" "}
            <code className="font-mono text-sm break-all select-all">{secret.data.secret}</code>
          </p>
        )}
        {trial.data && (
          <p role="status" className={`mt-2 ${trial.data.outcome === "TAKEN" ? "" : "text-late"}`}>
            {trial.data.outcome === "TAKEN" ? "The address takes events. " : "The address did not take it. "}
            {trial.data.answer}
          </p>
        )}
        {[trial, secret, again].map((m, i) => m.isError && <Trouble key={String(i)} error={m.error} />)}
        <section aria-label="What became of events" className="mt-6 max-w-4xl">
          <h2 className="mb-1 font-bold">What became of events</h2>
          {deliveries.length === 0 && <Empty title="None yet">From now on each event stands here for 30 days.</Empty>}
          <ul>
            {deliveries.map((d) => {
              const became = deliveryWords(d);
              const [ticket = ""] = d.event.split("/");
              return (
                <li key={d.event} className="flex flex-wrap items-baseline gap-x-4 border-b border-hairline py-1.5">
                  <span className="w-28 shrink-0 text-ink-2" title={exact(d.at)}>
                    {moment(d.at, now)}
                  </span>
                  <Link to="/tickets/$number" params={{ number: ticket }} className="link w-28 shrink-0">
                    {d.event}
                  </Link>
                  <span className="w-44 shrink-0">{kindWords(d.kind)}</span>
                  <span
                    className={`min-w-0 flex-1 ${became.tone === "late" ? "text-late" : became.tone === "soon" ? "text-soon" : ""}`}
                  >
                    {became.words}
                    {became.tone !== "plain" && <span className="text-sm text-ink-2"> · {d.answer}</span>}
                  </span>
                  {may && (
                    <Button
                      look="quiet"
                      aria-label={`Send again: ${d.event}`}
                      disabled={again.isPending}
                      onClick={() => again.mutate(d.event)}
                    >
                      Send again
                    </Button>
                  )}
                </li>
              );
            })}
          </ul>
        </section>
      </div>
      {changing && <SubscriptionDialog view={view} onClose={() => setChanging(false)} />}
    </>
  );
}
