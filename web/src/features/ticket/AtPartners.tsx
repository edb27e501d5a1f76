import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { AtPartner, Ticket } from "../../api/types";
import { Button, Dialog, TextArea, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useSend } from "./useSend";

/** At whose desks this ticket is followed, and saying something there. */
export function AtPartners({ ticket }: { ticket: Ticket }) {
  const now = useNow();
  const [saying, setSaying] = useState<AtPartner>();
  if (ticket.partners.length === 0) return null;
  return (
    <section aria-label="At partners" className="mt-6">
      <h2 className="mb-1 font-bold">At partners</h2>
      <ul>
        {ticket.partners.map((p) => (
          <li key={p.partner} className="border-b border-hairline py-1">
            <div className="flex items-baseline gap-2">
              <span className="min-w-0 flex-1">
                <Link to="/partners/$key" params={{ key: p.partner }} className="link">
                  {p.name}
                </Link>{" "}
                {p.link ? (
                  <a href={p.link} target="_blank" rel="noreferrer noopener" className="link font-mono text-sm">
                    {p.id}
                  </a>
                ) : (
                  <span className="font-mono text-sm">{p.id}</span>
                )}
              </span>
              {ticket.mayWork && p.speaks && !p.over && (
                <Button look="quiet" onClick={() => setSaying(p)}>
                  Say something…
                </Button>
              )}
            </div>
            <p className="text-sm text-ink-2" title={exact(p.since)}>
              {p.over ? "No longer followed" : p.theirs ? "Theirs first, followed" : "Handed over, followed"} since{" "}
              {moment(p.since, now)}
            </p>
            {p.over && p.why && <p className="wrap-anywhere text-sm text-late">{p.why}</p>}
          </li>
        ))}
      </ul>
      {saying && <SayDialog ticket={ticket.number} partner={saying} onClose={() => setSaying(undefined)} />}
    </section>
  );
}

/** Says something to a partner; what is typed stays until it was taken. */
function SayDialog({ ticket, partner, onClose }: { ticket: string; partner: AtPartner; onClose: () => void }) {
  const store = `dastur-say-${ticket}-${partner.partner}`;
  const [text, setText] = useState(() => sessionStorage.getItem(store) ?? "");
  const send = useSend(ticket, () => {
    sessionStorage.removeItem(store);
    onClose();
  });
  return (
    <Dialog title={`Say something to ${partner.name}`} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ path: `/api/tickets/${ticket}/partners/${partner.partner}/words`, body: { text } });
        }}
      >
        <TextArea
          label="What they are to read"
          rows={5}
          autoFocus
          required
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            sessionStorage.setItem(store, e.target.value);
          }}
        />
        <p className="text-sm text-ink-2">
          It goes to {partner.id} with your name. Notes never go there: only what is said here does.
        </p>
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={send.isPending}>
            Say it to {partner.name}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
