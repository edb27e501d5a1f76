import { useState } from "react";
import type { Ticket } from "../../api/types";
import { type Asked, isMine, StandingCard } from "./StandingCard";
import { useStanding } from "./standing";

/** All that a ticket asks, what is asked of this person first. */
function askedOn(ticket: Ticket): { id: string; item: Asked }[] {
  const all: { id: string; item: Asked }[] = [
    ...ticket.questions.map((question) => ({ id: question.id, item: { of: "question", question } as const })),
    ...ticket.late.map((late) => ({ id: late.id, item: { of: "late", late } as const })),
    ...ticket.asks.map((ask) => ({ id: ask.visit, item: { of: "ask", ask } as const })),
    ...ticket.partners.flatMap((partner) =>
      partner.differences.map((difference) => ({
        id: difference.id,
        item: { of: "difference", difference, partner } as const,
      })),
    ),
    ...ticket.offers.map((offer) => ({ id: offer.id, item: { of: "offer", offer } as const })),
  ];
  return [...all.filter((a) => isMine(a.item)), ...all.filter((a) => !isMine(a.item))];
}

/**
 * What is asked on a ticket, above its record. Single keys are for the first of them, or for the one that was touched
 * last; when that one is settled they are for none until somebody says so.
 */
export function AskedCards({
  ticket,
  keys = true,
  bare,
}: {
  ticket: Ticket;
  /** Whether single keys press anything: not where matters of several tickets stand on one page. */
  keys?: boolean;
  /** Whether it stands inside something that has its own space around. */
  bare?: boolean;
}) {
  const { standing, dismiss } = useStanding(askedOn(ticket), isMine);
  const [touched, setTouched] = useState<string>();
  const [first, setFirst] = useState(() => standing.find((s) => isMine(s.item))?.id);
  const target = standing.some((s) => s.id === touched) ? touched : first;
  if (standing.length === 0) return null;
  if (!standing.some((s) => s.id === target)) {
    const next = standing.find((s) => !s.over && isMine(s.item))?.id;
    if (next !== first) setFirst(next);
  }
  return (
    <div className={`flex flex-col gap-3 ${bare ? "" : "p-5 pb-2"}`}>
      {standing.map((s) => (
        <div key={s.id} onPointerDown={() => setTouched(s.id)} onFocusCapture={() => setTouched(s.id)}>
          <StandingCard
            id={s.id}
            asked={s.item}
            ticket={ticket.number}
            over={s.over}
            keys={keys && s.id === target}
            onRead={() => dismiss(s.id)}
          />
        </div>
      ))}
    </div>
  );
}
