import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { useNames, useRecord, useTicket } from "../../api/hooks";
import type { Ticket } from "../../api/types";
import { Button, Loading, PageHead, Trouble } from "../../ui/kit";
import { Together } from "../../ui/Together";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { OfTicket } from "../signals/OfTicket";
import { KnownAnswers } from "../tickets/KnownAnswers";
import { AsItStood } from "./AsItStood";
import { AskedCards } from "./AskedCards";
import { AtPartners } from "./AtPartners";
import { CallsUnderWay } from "./CallsUnderWay";
import { Clocks } from "./Clocks";
import { EditDialog } from "./EditDialog";
import { Facts } from "./Facts";
import { Files } from "./Files";
import { Folds, UnderBar } from "./Folded";
import { HeadActions } from "./HeadActions";
import { Links } from "./Links";
import { ListsUnderWay } from "./ListRows";
import { NoteDialog } from "./NoteDialog";
import { Onlookers } from "./Onlookers";
import { PlanCiDialog, plansCis } from "./PlanCiDialog";
import { ReadDialog } from "./ReadDialog";
import { RecordStory } from "./RecordStory";
import { RequesterTicket } from "./RequesterTicket";
import { RunProgress } from "./RunProgress";
import { StartDialog } from "./StartDialog";
import { TestBar } from "./TestBar";
import { useSend } from "./useSend";
import { WhereTimeWent } from "./WhereTimeWent";
import { valueWords } from "./words";

/** A ticket: what is asked on top, its record as the story of the case, route and facts beside it. */
export function TicketPage() {
  const { number } = useParams({ from: "/tickets/$number" });
  const ticket = useTicket(number);
  useEffect(() => {
    document.title = `${number} · Dastur`;
  }, [number]);
  if (ticket.isPending) return <Loading what={number} />;
  if (ticket.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={ticket.error} onRetry={() => ticket.refetch()}>
          <Link to="/tickets" className="link">
            All tickets
          </Link>
        </Trouble>
      </div>
    );
  return ticket.data.mayReadRecord ? <FullTicket ticket={ticket.data} /> : <RequesterTicket ticket={ticket.data} />;
}

function FullTicket({ ticket }: { ticket: Ticket }) {
  const names = useNames();
  const now = useNow();
  const record = useRecord(ticket.number, true);
  const { after } = useSearch({ from: "/tickets/$number" });
  const navigate = useNavigate();
  const stand = (seq: number | undefined) =>
    navigate({
      to: "/tickets/$number",
      params: { number: ticket.number },
      search: seq === undefined ? {} : { after: seq },
      replace: after !== undefined,
    });
  const [dialog, setDialog] = useState<"note" | "start" | "edit" | "read" | "plan" | { state: string }>();
  const [step, setStep] = useState<string>();
  const give = useSend(ticket.number);
  const f = ticket.fields;
  if (after !== undefined && record.isPending) return <Loading what="the record" />;
  if (after !== undefined && record.data)
    return <AsItStood ticket={ticket} record={record.data} seq={after} onMove={stand} onNow={() => stand(undefined)} />;
  return (
    <>
      <PageHead
        title={ticket.title}
        sub={
          <span className="flex flex-wrap gap-x-1.5">
            <strong className="text-ink">{ticket.number}</strong>· {ticket.kind} ·{" "}
            <strong className="text-ink">{ticket.state}</strong>
            {f.major === true && <strong className="rounded bg-late px-1.5 text-sheet">major</strong>}
            {f.priority !== undefined && (
              <>
                ·<strong className={f.priority === "P1" ? "text-late" : "text-ink"}>{String(f.priority)}</strong>
                <span>
                  (impact {valueWords(f.impact)} × urgency {valueWords(f.urgency)})
                </span>
              </>
            )}
            {f.service !== undefined && <span>· {names.service(String(f.service))}</span>}
            {f.group !== undefined && (!ticket.mayWork || ticket.ended) && (
              <span>
                · with <strong className="text-ink">{names.group(String(f.group))}</strong>
              </span>
            )}
            <span title={exact(ticket.createdAt)}>· since {moment(ticket.createdAt, now)}</span>
          </span>
        }
      >
        {ticket.startable.length > 0 && <Button onClick={() => setDialog("start")}>Start a workflow…</Button>}
        {ticket.readable && <Button onClick={() => setDialog("read")}>Read…</Button>}
        {ticket.mayWork && !ticket.ended && <Major ticket={ticket} />}
        {ticket.mayWork && plansCis(ticket) && <Button onClick={() => setDialog("plan")}>Plan a CI…</Button>}
        {ticket.mayWork && <Button onClick={() => setDialog("edit")}>Change…</Button>}
        {ticket.mayWork && <Button onClick={() => setDialog("note")}>Add a note</Button>}
      </PageHead>
      <TestBar ticket={ticket} />
      {!ticket.ended && <UnderBar ticket={ticket} />}
      {ticket.mayWork && !ticket.ended && <HeadActions ticket={ticket} onEnd={(state) => setDialog({ state })} />}
      <div className="flex min-h-0 flex-1 flex-col overflow-auto lg:flex-row lg:overflow-hidden">
        <div className="min-w-0 flex-1 bg-sheet lg:overflow-auto">
          <AskedCards key={ticket.number} ticket={ticket} />
          {ticket.runs.some((r) => r.endedAt === undefined || r.endedAt === null) && (
            <>
              <CallsUnderWay ticket={ticket.number} />
              <ListsUnderWay ticket={ticket.number} />
            </>
          )}
          {record.isPending && <Loading what="the record" />}
          {record.isLoadingError && (
            <div className="p-5">
              <Trouble error={record.error} onRetry={() => record.refetch()} />
            </div>
          )}
          {record.data && (
            <RecordStory
              key={ticket.number}
              ticket={ticket}
              record={record.data}
              step={step}
              onStep={setStep}
              onThen={stand}
            />
          )}
        </div>
        <aside className="shrink-0 border-hairline px-5 pt-2 pb-5 max-lg:border-t lg:w-[340px] lg:overflow-auto lg:border-l">
          <Together key={ticket.number}>
            <Onlookers ticket={ticket.number} />
            {ticket.runs.map((run) => (
              <RunProgress
                key={run.id}
                run={run}
                ticket={ticket}
                selected={step}
                onSelect={(s) => setStep(s === step ? undefined : s)}
              />
            ))}
            <Clocks ticket={ticket} />
            {record.data && <WhereTimeWent ticket={ticket} record={record.data} />}
            <OfTicket ticket={ticket} />
            <Facts ticket={ticket} />
            <AtPartners ticket={ticket} />
            <Folds ticket={ticket} />
            <Links ticket={ticket} />
            <Files ticket={ticket} mayAttach={ticket.mayWork} />
            {!ticket.ended && ticket.mayWork && (
              <div className="mt-6">
                <KnownAnswers
                  text={ticket.title}
                  service={String(ticket.fields.service ?? "")}
                  onGive={(a) =>
                    give.mutate({
                      path: `/api/tickets/${ticket.number}`,
                      put: true,
                      body: { fields: { answer: a.answer }, reason: `Known answer “${a.question}”, from ${a.source}` },
                    })
                  }
                />
              </div>
            )}
          </Together>
        </aside>
      </div>
      {dialog === "note" && <NoteDialog ticket={ticket.number} onClose={() => setDialog(undefined)} />}
      {dialog === "start" && <StartDialog ticket={ticket} onClose={() => setDialog(undefined)} />}
      {dialog === "plan" && <PlanCiDialog ticket={ticket.number} onClose={() => setDialog(undefined)} />}
      {dialog === "read" && <ReadDialog ticket={ticket} onClose={() => setDialog(undefined)} />}
      {(dialog === "edit" || typeof dialog === "object") && (
        <EditDialog
          ticket={ticket}
          state={typeof dialog === "object" ? dialog.state : undefined}
          onClose={() => setDialog(undefined)}
        />
      )}
    </>
  );
}

/** Marks an incident as a major one, or takes the mark away: on the record, and a trigger may listen to it. */
function Major({ ticket }: { ticket: Ticket }) {
  const queries = useQueryClient();
  const major = ticket.fields.major === true;
  const mark = useMutation({
    mutationFn: () => api.put(`/api/tickets/${ticket.number}`, { fields: { major: !major } }),
    onSettled: () => {
      queries.invalidateQueries({ queryKey: ["ticket", ticket.number] });
      queries.invalidateQueries({ queryKey: ["record", ticket.number] });
    },
  });
  if (ticket.kind !== "incident") return null;
  return (
    <Button aria-pressed={major} disabled={mark.isPending} onClick={() => mark.mutate()}>
      {major ? "Major: take the mark off" : "Mark as major"}
    </Button>
  );
}
