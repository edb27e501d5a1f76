import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { Ticket } from "../../api/types";
import { Button, Dialog, Input, Select, Trouble } from "../../ui/kit";
import { useSend } from "./useSend";

type As = Ticket["links"][number]["as"];

const BY_HAND: As[] = ["related to", "caused by", "causes", "part of", "has as part"];

/** Other tickets that this one has to do with, and linking one more. */
export function Links({ ticket }: { ticket: Ticket }) {
  const [linking, setLinking] = useState(false);
  const remove = useSend(ticket.number);
  // What stands under it is listed there.
  const folded = new Set(ticket.folds.map((f) => f.number));
  const links = ticket.links.filter((l) => l.as !== "causes" || !folded.has(l.number));
  if (links.length === 0 && !ticket.mayWork) return null;
  return (
    <section aria-label="Other tickets" className="mt-6">
      <div className="mb-1 flex items-center justify-between">
        <h2 className="font-bold">Other tickets</h2>
        {ticket.mayWork && (
          <Button look="quiet" onClick={() => setLinking(true)}>
            Link…
          </Button>
        )}
      </div>
      <ul>
        {links.map((l) => (
          <li key={`${l.as} ${l.number}`} className="flex items-baseline gap-2 border-b border-hairline py-1">
            <span className="min-w-0 flex-1">
              <span className="text-ink-2">{l.as}</span>{" "}
              <Link to="/tickets/$number" params={{ number: l.number }} className="link">
                {l.number}
              </Link>{" "}
              {l.title} <span className="text-ink-2">· {l.state}</span>
            </span>
            {l.byHand && ticket.mayWork && (
              <button
                type="button"
                className="link text-xs"
                aria-label={`Take the link with ${l.number} away`}
                disabled={remove.isPending}
                onClick={() =>
                  remove.mutate({
                    path: `/api/tickets/${ticket.number}/links/removal`,
                    body: { as: l.as, other: l.number },
                  })
                }
              >
                take away
              </button>
            )}
          </li>
        ))}
      </ul>
      {remove.isError && <Trouble error={remove.error} />}
      {linking && <LinkDialog ticket={ticket} onClose={() => setLinking(false)} />}
    </section>
  );
}

function LinkDialog({ ticket, onClose }: { ticket: Ticket; onClose: () => void }) {
  const [as, setAs] = useState<As>("related to");
  const [other, setOther] = useState("");
  const send = useSend(ticket.number, onClose);
  return (
    <Dialog title={`Link ${ticket.number}`} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({
            path: `/api/tickets/${ticket.number}/links`,
            body: { as, other: other.trim().toUpperCase() },
          });
        }}
      >
        <Select
          label="This ticket is"
          value={as}
          onChange={(picked) => setAs(picked as As)}
          options={BY_HAND.map((w) => ({ value: w, label: w }))}
        />
        <Input
          label="Number of the other"
          required
          autoFocus
          placeholder="I-1042"
          value={other}
          onChange={(e) => setOther(e.target.value)}
        />
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={send.isPending}>
            Link them
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
