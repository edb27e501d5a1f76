import type { Ticket } from "../../api/types";
import { exact, left, moment, span } from "../../ui/time";
import { useNow } from "../../ui/useNow";

type Target = NonNullable<Ticket["targets"][string]>;

/** How soon the ticket is to be responded to and restored, and where that stands. */
export function Clocks({ ticket }: { ticket: Ticket }) {
  const now = useNow();
  const all = Object.entries(ticket.targets) as [string, Target][];
  if (all.length === 0) return null;
  return (
    <section aria-label="Clocks" className="mb-6">
      <h2 className="mb-1 font-bold">Clocks</h2>
      <dl className="flex flex-col gap-1">
        {all.map(([of, t]) => (
          <div key={of} className="grid grid-cols-[96px_1fr] gap-2">
            <dt className="text-ink-2">{of}</dt>
            <dd>{words(t, now)}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function words(t: Target, now: number) {
  if (t.metAt)
    return (
      <span title={exact(t.metAt)} className={t.missed ? "text-late" : "text-well"}>
        {t.missed ? "too late, " : "in time, "}
        {moment(t.metAt, now)}
      </span>
    );
  if (!t.due) return <span className="text-ink-2">stands still, {t.rest} left</span>;
  const over = now - new Date(t.due).getTime();
  return (
    <span title={exact(t.due)} className={over > 0 ? "font-semibold text-late" : ""}>
      {over > 0 ? `late by ${span(over)}` : `${left(t.due, now)} left, until ${moment(t.due, now)}`}
    </span>
  );
}

/** The next clock of a ticket in a list, short. */
export function NextClock({ target, due, now }: { target: string | undefined; due: string | undefined; now: number }) {
  if (!target) return <span className="text-ink-2">—</span>;
  if (!due) return <span className="text-ink-2">{target}: stands still</span>;
  const over = now - new Date(due).getTime();
  return (
    <span title={exact(due)} className={over > 0 ? "font-semibold text-late" : "text-ink-2"}>
      {target} {over > 0 ? `late ${span(over)}` : `in ${left(due, now)}`}
    </span>
  );
}
