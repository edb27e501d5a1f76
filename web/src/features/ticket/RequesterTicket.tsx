import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { Ticket } from "../../api/types";
import { Button, LongText, PageHead, TextArea, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useSession } from "../signin/session";
import { KnownAnswers } from "../tickets/KnownAnswers";
import { AskedCards } from "./AskedCards";
import { Files } from "./Files";
import { PlanCiDialog, plansCis } from "./PlanCiDialog";
import { SolvedOrNot } from "./SolvedOrNot";
import { useSend } from "./useSend";

/** What the requester sees: what they asked, where it stands, the answer, and what was said. */
export function RequesterTicket({ ticket }: { ticket: Ticket }) {
  const now = useNow();
  const names = useNames();
  const { session } = useSession();
  const own = ticket.fields.requester === session.id;
  const helped = useSend(ticket.number);
  const [planning, setPlanning] = useState(false);
  return (
    <>
      <PageHead
        title={ticket.title}
        sub={`${ticket.number} · ${own ? "asked" : "raised"} ${moment(ticket.createdAt, now)}`}
      />
      <div className="max-w-2xl p-5">
        <AskedCards key={ticket.number} ticket={ticket} />
        <p className="mt-3 text-base">
          Where it stands: <strong>{ticket.state}</strong>
          {ticket.ended ? "." : `, last worked on ${moment(ticket.updatedAt, now)}.`}
        </p>
        {own && <SolvedOrNot ticket={ticket.number} maySay={ticket.maySay} />}
        {ticket.fields.answer !== undefined && (
          <div className="mt-4 rounded-xl border border-well bg-sheet p-4">
            <h2 className="font-semibold text-well">Answer</h2>
            <p className="mt-1 whitespace-pre-wrap wrap-anywhere">{String(ticket.fields.answer)}</p>
          </div>
        )}
        {ticket.fields.description !== undefined && (
          <div className="mt-4">
            <h2 className="text-sm font-semibold text-ink-2">{own ? "What you wrote" : "What was reported"}</h2>
            <LongText className="mt-1" text={String(ticket.fields.description)} />
          </div>
        )}
        {own && !ticket.ended && (
          <div className="mt-4">
            <KnownAnswers
              text={ticket.title}
              service={String(ticket.fields.service ?? "")}
              onHelped={(a) =>
                helped.mutate({
                  path: `/api/tickets/${ticket.number}/notes`,
                  body: { text: `The known answer “${a.question}” helped me. I need nothing more.`, toRequester: true },
                })
              }
            />
          </div>
        )}
        {own && plansCis(ticket) && (
          <Button className="mt-4" onClick={() => setPlanning(true)}>
            Say what is to be there…
          </Button>
        )}
        {planning && <PlanCiDialog ticket={ticket.number} onClose={() => setPlanning(false)} />}
        {own && <Talk ticket={ticket} />}
        <Files ticket={ticket} mayAttach={!ticket.ended} />
        {ticket.fields.service !== undefined && (
          <p className="mt-4 text-ink-2">About {names.service(String(ticket.fields.service))}</p>
        )}
      </div>
    </>
  );
}

/** How something came about that is no word of a person. */
const WHAT: Record<string, string> = {
  sent: "wrote to you",
  decided: "decided",
  moved: "changed where it stands",
  wished: "said what is to be there",
};

/** What happened that the requester may know: what was said, sent to them and decided, and a line to say more. */
function Talk({ ticket }: { ticket: Ticket }) {
  const now = useNow();
  const store = `dastur-note-${ticket.number}`;
  const [text, setText] = useState(() => sessionStorage.getItem(store) ?? "");
  const send = useSend(ticket.number, () => {
    sessionStorage.removeItem(store);
    setText("");
  });
  return (
    <section aria-label="What happened" className="mt-4">
      <ul>
        {ticket.talk.map((t) => (
          <li key={t.seq} className="border-b border-hairline py-2">
            <p className="text-sm text-ink-2">
              {t.mine ? "You" : t.by}
              {t.what !== "said" && ` ${WHAT[t.what] ?? t.what}`} · {moment(t.at, now)}
            </p>
            <p className={`whitespace-pre-wrap wrap-anywhere ${t.what === "said" ? "" : "font-medium"}`}>
              {t.text ?? "taken off the record"}
            </p>
          </li>
        ))}
      </ul>
      {!ticket.ended && (
        <form
          className="mt-3"
          onSubmit={(e) => {
            e.preventDefault();
            send.mutate({ path: `/api/tickets/${ticket.number}/notes`, body: { text, toRequester: true } });
          }}
        >
          <TextArea
            label="Say something more"
            rows={2}
            required
            value={text}
            onChange={(e) => {
              setText(e.target.value);
              sessionStorage.setItem(store, e.target.value);
            }}
          />
          {send.isError && <Trouble error={send.error} />}
          <Button className="mt-2" type="submit" disabled={send.isPending}>
            Send
          </Button>
        </form>
      )}
    </section>
  );
}
