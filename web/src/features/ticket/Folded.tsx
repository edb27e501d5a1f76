import { Link } from "@tanstack/react-router";
import type { Ticket } from "../../api/types";
import { Button, Trouble } from "../../ui/kit";
import { useSend } from "./useSend";

/** As many as the server tells of. */
const TOLD = 50;

/** That an incident stands under the one whose fault explains it: why it is in no list, and how it comes back. */
export function UnderBar({ ticket }: { ticket: Ticket }) {
  const send = useSend(ticket.number);
  const cause = ticket.under;
  if (!cause) return null;
  return (
    <section aria-label="Stands under another" className="border-b border-hairline bg-raised px-5 py-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <p className="min-w-0 flex-1">
          Follows from{" "}
          <Link to="/tickets/$number" params={{ number: cause.number }} className="link font-semibold">
            {cause.number}
          </Link>{" "}
          {cause.title} <span className="text-ink-2">· {cause.state}</span>
          <span className="block text-sm text-ink-2">
            It stands under that one, out of the lists. It comes back when that has been restored for ten minutes, or as
            soon as somebody does anything here.
          </span>
        </p>
        {ticket.mayWork && (
          <Button
            disabled={send.isPending}
            onClick={() => send.mutate({ path: `/api/tickets/${ticket.number}/by-itself`, body: {} })}
          >
            Look at it by itself
          </Button>
        )}
      </div>
      {send.isError && <Trouble error={send.error} />}
    </section>
  );
}

/** Incidents that stand under this one. */
export function Folds({ ticket }: { ticket: Ticket }) {
  if (ticket.folds.length === 0) return null;
  const many = ticket.folds.length;
  return (
    <section aria-label="Stand under this one" className="mt-6">
      <h2 className="mb-1 font-bold">
        {many >= TOLD
          ? `${many} and perhaps more follow`
          : many === 1
            ? "1 incident follows"
            : `${many} incidents follow`}{" "}
        from this one
      </h2>
      <ul>
        {ticket.folds.map((f) => (
          <li key={f.number} className="border-b border-hairline py-1">
            <Link to="/tickets/$number" params={{ number: f.number }} className="link">
              {f.number}
            </Link>{" "}
            {f.title} <span className="text-ink-2">· {f.state}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
