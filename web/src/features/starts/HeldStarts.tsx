import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { HeldLine, HeldStart } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Dialog, Input, Loading, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";

/** What triggers hold back, since they have started so much of late; undefined while that is not known. */
export function useHeldStarts(asks: boolean): HeldLine[] | undefined {
  const held = useQuery({
    queryKey: ["held-starts"],
    queryFn: () => api.get<HeldLine[]>("/api/held-starts"),
    refetchInterval: 10_000,
    enabled: asks,
  });
  return asks && held.isPending ? undefined : (held.data ?? []);
}

const starts = (count: number) => (count === 1 ? "1 start is" : `${count} starts are`);

/** Says on a page's head that starts are held back: it comes by itself, and moves nothing there. */
export function HeldNotice({ held }: { held: HeldLine[] }) {
  const count = held.reduce((sum, h) => sum + h.count, 0);
  return count === 0 ? null : (
    <Link to="/starts" hash="held-back" className="link font-semibold text-soon max-md:hidden">
      {starts(count)} held back
    </Link>
  );
}

/** One row a trigger: a storm puts one thing before people, and not a thousand. */
export function HeldStarts({ held }: { held: HeldLine[] }) {
  const now = useNow();
  const [open, setOpen] = useState<HeldLine>();
  if (held.length === 0) return null;
  return (
    <section aria-label="Held back" id="held-back" className="mt-8">
      <h2 className="mb-1 font-bold">Held back</h2>
      <p className="mb-1 max-w-3xl text-sm text-ink-2">
        What comes from outside has started these so often of late that more is for people to decide.
      </p>
      <ul>
        {held.map((h) => (
          <li
            key={h.live.trigger.id}
            className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-hairline py-2.5"
          >
            <Link to="/workflows/$key" params={{ key: h.live.workflow }} className="link min-w-0 flex-1 font-semibold">
              {h.live.name}
            </Link>
            <span>
              <span className="font-semibold text-soon">{starts(h.count)} held back</span>
              <span className="text-ink-2" title={exact(h.since)}>
                , the first since {moment(h.since, now)}
              </span>
            </span>
            <Button aria-label={`Decide… ${h.live.name}`} onClick={() => setOpen(h)}>
              Decide…
            </Button>
          </li>
        ))}
      </ul>
      {open && <HeldDialog line={open} onClose={() => setOpen(undefined)} />}
    </section>
  );
}

interface Answered {
  answered: { ticket: string; problem?: string }[];
}

/** The tickets on which it would have started, and one answer for those that are shown. */
function HeldDialog({ line, onClose }: { line: HeldLine; onClose: () => void }) {
  const now = useNow();
  const queries = useQueryClient();
  const path = `/api/held-starts/${line.live.trigger.id}`;
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [reason, setReason] = useState("");
  const held = useQuery({ queryKey: ["held-starts", line.live.trigger.id], queryFn: () => api.get<HeldStart[]>(path) });
  const shown = (held.data ?? []).map((h) => h.ticket);
  const meant = shown.filter((t) => !left.has(t));
  const answer = useMutation({
    mutationFn: (start: boolean) =>
      api.post<Answered>(path, { start, tickets: meant, ...(reason.trim() ? { reason: reason.trim() } : {}) }),
    onSuccess: (done) => {
      queries.invalidateQueries({ queryKey: ["held-starts"] });
      if (done.answered.every((a) => !a.problem)) onClose();
    },
  });
  const refused = answer.data?.answered.filter((a) => a.problem) ?? [];
  const many = meant.length === 1 ? "it on 1 ticket" : `it on ${meant.length} tickets`;
  return (
    <Dialog title={`“${line.live.name}” is held back`} open onClose={onClose} wide>
      {held.isPending ? (
        <Loading what="what is held back" />
      ) : held.isLoadingError ? (
        <Trouble error={held.error} onRetry={() => held.refetch()} />
      ) : shown.length === 0 ? (
        <p className="text-ink-2">Nothing is held back any more: it was answered, or its tickets have ended.</p>
      ) : (
        <>
          <ul className="max-h-72 overflow-auto" aria-label="Tickets">
            {held.data.map((h) => (
              <li key={h.ticket}>
                <div className="flex items-center gap-3 border-b border-hairline py-1.5">
                  <Check
                    label={h.ticket}
                    checked={!left.has(h.ticket)}
                    onChange={(picked) => {
                      const next = new Set(left);
                      if (picked) next.delete(h.ticket);
                      else next.add(h.ticket);
                      setLeft(next);
                    }}
                  />
                  <span className="min-w-0 flex-1 truncate">{h.title}</span>
                  <span className="text-sm text-ink-2" title={exact(h.since)}>
                    {moment(h.since, now)}
                  </span>
                </div>
              </li>
            ))}
          </ul>
          {line.count > shown.length && (
            <p className="mt-2 text-sm text-ink-2">
              The oldest {shown.length} of {line.count}; the others follow when these are answered.
            </p>
          )}
          <div className="mt-3">
            <Input
              label="Why (if you like)"
              maxLength={2000}
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
          </div>
          {refused.map((a) => (
            <p key={a.ticket} role="alert" className="mt-2 text-sm text-late">
              {a.ticket}: {a.problem}
            </p>
          ))}
          {answer.isError && <Trouble error={answer.error} />}
          <div className="mt-4 flex flex-wrap gap-3">
            <Button
              look="primary"
              disabled={answer.isPending || meant.length === 0}
              onClick={() => answer.mutate(true)}
            >
              Start {many}
            </Button>
            <Button disabled={answer.isPending || meant.length === 0} onClick={() => answer.mutate(false)}>
              Do not start {many}
            </Button>
          </div>
        </>
      )}
    </Dialog>
  );
}
