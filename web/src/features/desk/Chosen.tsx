import { Link } from "@tanstack/react-router";
import { lazy, Suspense, useRef } from "react";
import { useTicket } from "../../api/hooks";
import type { Ticket } from "../../api/types";
import { Loading, LongText, Trouble } from "../../ui/kit";
import { type Asked, StandingCard } from "../ticket/StandingCard";
import type { Row } from "./filter";

// What is asked stands there first; the case comes right after.
const TheCase = lazy(() => import("./TheCase").then((m) => ({ default: m.TheCase })));

/** What a row of the Desk stands for on its ticket; nothing once that is over. */
export function askedBy(row: Row, t: Ticket): Asked | undefined {
  const offer = t.offers.find((o) => o.id === row.id);
  if (offer) return { of: "offer", offer };
  const question = t.questions.find((q) => q.id === row.id);
  if (question) return { of: "question", question };
  for (const partner of t.partners) {
    const difference = partner.differences.find((d) => d.id === row.id);
    if (difference) return { of: "difference", difference, partner };
  }
  const late = t.late.find((l) => l.id === row.id);
  if (late) return { of: "late", late };
  // A stalled run stands under its own id; whatever else the same run asks is another matter.
  const ask = t.asks.find((a) => a.visit === row.id || (a.kind === "stalled" && a.run === row.id));
  return ask && { of: "ask", ask };
}

/** A ticket that one has: where it stands, and the way to it. */
function Yours({ ticket }: { ticket: Ticket }) {
  const waits = ticket.asks.filter((a) => a.kind !== "machine").map((a) => a.name);
  const runs = ticket.runs.filter((r) => !r.endedAt).map((r) => `“${r.name}”`);
  return (
    <section aria-label="A ticket you have" className="rounded-xl border border-hairline bg-sheet p-4">
      <p>
        You have it.{" "}
        {waits.length > 0 ? `It waits for: ${waits.join(", ")}.` : "Nothing is asked of anybody on it now."}{" "}
        {runs.length > 0 && `Under way: ${runs.join(", ")}.`}
      </p>
      <p className="mt-3">
        <Link
          to="/tickets/$number"
          params={{ number: ticket.number }}
          className="inline-flex rounded-lg border border-pine bg-pine px-3 py-1.5 font-semibold text-on-pine"
        >
          Open {ticket.number}
        </Link>
      </p>
    </section>
  );
}

/** What is before the person: the ticket in a line, what is asked with its buttons, and what was reported. */
export function Chosen({
  row,
  chosen,
  opened,
  onRead,
  onBack,
}: {
  row: Row;
  chosen: boolean;
  /** Whether the person went to it: on a phone it then has the page for itself. */
  opened: boolean;
  onRead: () => void;
  onBack: () => void;
}) {
  const ticket = useTicket(row.ticket);
  const last = useRef<Asked>(undefined);
  if (ticket.isPending) return opened ? <Loading what={row.ticket} /> : null;
  if (ticket.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={ticket.error} onRetry={() => ticket.refetch()} />
      </div>
    );
  const t = ticket.data;
  const asked = askedBy(row, t);
  if (asked) last.current = asked;
  return (
    <div className={`min-w-0 flex-1 overflow-auto p-5 max-md:p-4 ${opened ? "" : "max-md:hidden"}`}>
      <button type="button" className="link mb-2 md:hidden" onClick={onBack}>
        ← the list
      </button>
      <p className="text-ink-2">
        <Link to="/tickets/$number" params={{ number: t.number }} className="link text-ink">
          {t.number}
        </Link>{" "}
        · {t.kind} · {String(t.fields.priority)} · {t.state}
      </p>
      <p className="mt-0.5 mb-3 text-base font-bold wrap-anywhere">{t.title}</p>
      {row.kind === "ticket" ? (
        <Yours ticket={t} />
      ) : last.current ? (
        <StandingCard
          id={row.id}
          asked={last.current}
          ticket={t.number}
          over={asked === undefined}
          keys
          chosen={chosen}
          onRead={onRead}
        />
      ) : (
        <p className="text-ink-2">This was just done by somebody else.</p>
      )}
      {typeof t.fields.description === "string" && (
        <div className="mt-5">
          <h3 className="text-sm font-semibold text-ink-2">Reported</h3>
          <LongText className="mt-1" text={t.fields.description} />
        </div>
      )}
      <Suspense fallback={null}>
        <TheCase ticket={t} item={row.id} />
      </Suspense>
    </div>
  );
}
