import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { Matter, Ticket } from "../../api/types";
import { Button, Trouble } from "../../ui/kit";
import { exact } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useSend } from "../ticket/useSend";
import { at, countWords, standsWords } from "./words";

/** So many of what follows are shown at once: a pier of boards does not push the rest of the page away. */
const EXPLAINED = 5;

/** What signals say of what a ticket is about; where it has recovered and stayed so, it can be set to restored from here. */
export function OfTicket({ ticket }: { ticket: Ticket }) {
  const now = useNow();
  const [all, setAll] = useState(false);
  const matters = useQuery({
    queryKey: ["ticket-matters", ticket.number],
    queryFn: () => api.get<Matter[]>(`/api/tickets/${ticket.number}/matters`),
    refetchInterval: 10_000,
  });
  const send = useSend(ticket.number);
  if (!matters.data || matters.data.length === 0) return null;
  const about = matters.data.filter((m) => m.aside?.ticket !== ticket.number);
  const explained = matters.data.filter((m) => m.aside?.ticket === ticket.number);
  const clear = about.every((m) => m.inFault.length === 0 && m.unsteadyUntil === undefined);
  const offers = clear && about.some((m) => m.recoveryTold) && ticket.mayWork && ticket.moves.includes("restored");
  return (
    <section aria-label="Signals" className="mt-6">
      <h2 className="mb-1 font-bold">Signals</h2>
      <Lines matters={about} now={now} />
      {explained.length > 0 && (
        <>
          <h3 className="mt-2 text-sm font-semibold text-ink-2">
            {explained.some((m) => m.aside?.because === "planned work")
              ? "Explained by this work: nothing is opened for it meanwhile"
              : "Follows from this: nothing is opened for it meanwhile"}
          </h3>
          <Lines matters={all ? explained : explained.slice(0, EXPLAINED)} now={now} />
          {explained.length > EXPLAINED && (
            <button type="button" aria-expanded={all} className="link text-sm" onClick={() => setAll(!all)}>
              {all ? "Fewer" : `${explained.length - EXPLAINED} more`}
            </button>
          )}
        </>
      )}
      {offers && (
        <div role="status" className="mt-2 rounded border border-well bg-raised p-2">
          <p className="mb-2">It has recovered and has stayed well.</p>
          <Button
            disabled={send.isPending}
            onClick={() =>
              send.mutate({ path: `/api/tickets/${ticket.number}`, put: true, body: { fields: { state: "restored" } } })
            }
          >
            Set it to restored
          </Button>
          {send.isError && <Trouble error={send.error} />}
        </div>
      )}
    </section>
  );
}

function Lines({ matters, now }: { matters: Matter[]; now: number }) {
  return (
    <ul>
      {matters.map((m) => (
        <li key={m.key} className="py-1">
          <Link to="/signals" search={{ matter: m.key }} className="link">
            {m.title}
          </Link>
          <p className="text-sm text-ink-2">
            <span className={m.inFault.length > 0 ? "font-semibold text-soon" : "text-well"}>{standsWords(m)}</span>{" "}
            <span title={exact(m.since)}>since {at(m.since, now)}</span> · {countWords(m.count)}
          </p>
        </li>
      ))}
    </ul>
  );
}
