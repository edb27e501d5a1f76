import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { useCatalogue, useNames, useRecord, useTicket } from "../../api/hooks";
import type { Run, Ticket, Version } from "../../api/types";
import { layoutRoute } from "../../route/layout";
import { allSteps, routeSteps } from "../../route/ofVersion";
import { gutterWidth, type Progress, RouteGutter, SMALL } from "../../route/RouteGutter";
import { Button, Check, Dialog, Loading, PageHead, Select, TextArea, Trouble } from "../../ui/kit";
import { exact, moment, span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { KnownAnswers } from "../tickets/KnownAnswers";
import { AskCard } from "./AskCard";
import { Clocks } from "./Clocks";
import { EditDialog } from "./EditDialog";
import { Files } from "./Files";
import { FormFields, type FormValues } from "./FormFields";
import { InterveneDialog } from "./InterveneDialog";
import { Links } from "./Links";
import { OfferCard } from "./OfferCard";
import { LateCard, QuestionCard } from "./QuestionCard";
import { RecordStory } from "./RecordStory";
import { useSend } from "./useSend";
import { valueWords } from "./words";

/** A ticket: what is asked on top, its record as the story of the case, route and facts beside it. */
export function TicketPage() {
  const { number } = useParams({ from: "/tickets/$number" });
  const ticket = useTicket(number);
  useEffect(() => {
    document.title = `${number} · Dastur`;
  }, [number]);
  if (ticket.isPending) return <Loading what={number} />;
  if (ticket.isError)
    return (
      <div className="p-6">
        <Trouble error={ticket.error} onRetry={() => ticket.refetch()} />
      </div>
    );
  return ticket.data.mayReadRecord ? <FullTicket ticket={ticket.data} /> : <RequesterTicket ticket={ticket.data} />;
}

function FullTicket({ ticket }: { ticket: Ticket }) {
  const names = useNames();
  const now = useNow();
  const record = useRecord(ticket.number, true);
  const [dialog, setDialog] = useState<"note" | "start" | "edit">();
  const [step, setStep] = useState<string>();
  const give = useSend(ticket.number);
  const f = ticket.fields;
  return (
    <>
      <PageHead
        title={ticket.title}
        sub={
          <span className="flex flex-wrap gap-x-1.5">
            <strong className="text-ink">{ticket.number}</strong>· {ticket.kind} ·{" "}
            <strong className="text-ink">{ticket.state}</strong> ·{" "}
            {f.major === true && <strong className="rounded bg-late px-1.5 text-sheet">major</strong>}
            <strong className={f.priority === "P1" ? "text-late" : "text-ink"}>{String(f.priority)}</strong>
            <span>
              (impact {valueWords(f.impact)} × urgency {valueWords(f.urgency)})
            </span>
            {f.service !== undefined && <span>· {names.service(String(f.service))}</span>}
            {f.group !== undefined && (
              <span>
                · with <strong className="text-ink">{names.group(String(f.group))}</strong>
              </span>
            )}
            <span title={exact(ticket.createdAt)}>· since {moment(ticket.createdAt, now)}</span>
          </span>
        }
      >
        {ticket.startable.length > 0 && <Button onClick={() => setDialog("start")}>Start a workflow…</Button>}
        {ticket.mayWork && !ticket.ended && <Major ticket={ticket} />}
        {ticket.mayWork && <Button onClick={() => setDialog("edit")}>Change…</Button>}
        {ticket.mayWork && <Button onClick={() => setDialog("note")}>Add a note</Button>}
      </PageHead>
      <div className="flex min-h-0 flex-1 flex-col overflow-auto lg:flex-row lg:overflow-hidden">
        <div className="min-w-0 flex-1 bg-sheet lg:overflow-auto">
          {ticket.asks.length + ticket.offers.length + ticket.questions.length + ticket.late.length > 0 && (
            <div className="flex flex-col gap-3 p-5 pb-2">
              {ticket.questions.map((q) => (
                <QuestionCard key={q.id} question={q} ticket={ticket.number} />
              ))}
              {ticket.late.map((l) => (
                <LateCard key={l.id} late={l} ticket={ticket.number} />
              ))}
              {ticket.offers.map((o, i) => (
                <OfferCard key={o.id} offer={o} ticket={ticket.number} keys={i === 0 && ticket.asks.length === 0} />
              ))}
              {ticket.asks.map((a, i) => (
                <AskCard key={a.visit} ask={a} ticket={ticket.number} keys={i === 0} />
              ))}
            </div>
          )}
          {record.isPending && <Loading what="the record" />}
          {record.isError && (
            <div className="p-5">
              <Trouble error={record.error} onRetry={() => record.refetch()} />
            </div>
          )}
          {record.isSuccess && <RecordStory ticket={ticket} record={record.data} step={step} onStep={setStep} />}
        </div>
        <aside className="shrink-0 border-hairline p-5 max-lg:border-t lg:w-[340px] lg:overflow-auto lg:border-l">
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
          <Facts ticket={ticket} />
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
        </aside>
      </div>
      <NoteDialog ticket={ticket} open={dialog === "note"} onClose={() => setDialog(undefined)} />
      <StartDialog ticket={ticket} open={dialog === "start"} onClose={() => setDialog(undefined)} />
      {dialog === "edit" && <EditDialog ticket={ticket} onClose={() => setDialog(undefined)} />}
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

/** A run on its route, small: passed, here, ahead; a click shows the step's entries. */
function RunProgress({
  run,
  ticket,
  selected,
  onSelect,
}: {
  run: Run;
  ticket: Ticket;
  selected?: string;
  onSelect: (step: string) => void;
}) {
  const now = useNow();
  const [intervening, setIntervening] = useState(false);
  const open = ["under way", "stalled", "held"].includes(run.status);
  const may = open && ticket.mayIntervene;
  const catalogue = useCatalogue();
  const version = useQuery({
    queryKey: ["version", run.workflow, run.version],
    queryFn: () => api.get<Version>(`/api/workflows/${run.workflow}/versions/${run.version}`),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const until = run.endedAt ? new Date(run.endedAt).getTime() : now;
  const title = (
    <h2 className="mb-2">
      <Link to="/workflows/$key" params={{ key: run.workflow }} className="font-bold hover:underline">
        {run.name}
      </Link>{" "}
      <span className="whitespace-nowrap text-ink-2">
        {run.version} ·{" "}
        {run.status === "finished" ? `${run.result}, ` : run.status === "under way" ? "under way " : `${run.status} · `}
        {run.status === "finished"
          ? `took ${span(until - new Date(run.startedAt).getTime())}`
          : span(until - new Date(run.startedAt).getTime())}
      </span>
      <Link
        to="/tickets/$number/runs/$run"
        params={{ number: ticket.number, run: run.id }}
        className="link ml-2 text-sm"
      >
        summary
      </Link>
      {may && (
        <button type="button" className="link ml-2 text-sm" onClick={() => setIntervening(true)}>
          intervene…
        </button>
      )}
      {intervening && <InterveneDialog run={run} ticket={ticket.number} onClose={() => setIntervening(false)} />}
    </h2>
  );
  if (!version.data || !catalogue.data) return <div className="mb-6">{title}</div>;
  const layout = layoutRoute(routeSteps(version.data, catalogue.data.actions));
  const kinds = new Map(allSteps(version.data.body.steps).map((s) => [s.id, s.kind]));
  const steps = new Map(allSteps(version.data.body.steps).map((s) => [s.id, s]));
  const visits = new Map(run.visits.map((v) => [v.step, v]));
  const progress = (id: string): Progress => {
    const visit = visits.get(id);
    return visit
      ? visit.endedAt || !["under way", "stalled", "held"].includes(run.status)
        ? "passed"
        : "here"
      : "ahead";
  };
  const taken = new Set(run.visits.map((v) => `${v.step} ${v.exit}`));
  return (
    <section className="mb-6">
      {title}
      <div className="relative">
        <RouteGutter layout={layout} kinds={kinds} sizes={SMALL} progress={progress} taken={taken} />
        <ol>
          {layout.rows.map((row) => {
            const visit = visits.get(row.id);
            const state = progress(row.id);
            return (
              <li key={row.id} style={{ height: SMALL.rowHeight, paddingLeft: gutterWidth(layout, SMALL) + 2 }}>
                <button
                  type="button"
                  disabled={!visit}
                  aria-pressed={selected === row.id}
                  onClick={() => onSelect(row.id)}
                  className={`flex h-full w-full items-center justify-between gap-2 rounded px-1 text-left ${selected === row.id ? "bg-selected" : visit ? "hover:bg-here" : ""} ${state === "ahead" ? "text-ink-2" : ""} ${state === "here" ? "font-bold" : ""}`}
                >
                  <span className={`truncate ${row.lane ? "text-xs text-ink-2" : ""}`}>
                    {row.lane ?? steps.get(row.id)?.name}
                  </span>
                  {visit && (
                    <span className={`shrink-0 text-xs ${visit.stalled ? "font-semibold text-late" : "text-ink-2"}`}>
                      {visit.stalled ??
                        span(
                          (visit.endedAt ? new Date(visit.endedAt).getTime() : now) -
                            new Date(visit.openedAt).getTime(),
                        )}
                    </span>
                  )}
                </button>
              </li>
            );
          })}
        </ol>
      </div>
    </section>
  );
}

const HIDDEN = new Set(["title", "state", "priority", "impact", "urgency", "service", "group"]);

function Facts({ ticket }: { ticket: Ticket }) {
  const names = useNames();
  const ci = ticket.ci;
  const labels = new Map((names.directory?.fields ?? []).map((f) => [f.name, f]));
  const say = (name: string, value: unknown) => {
    const type = labels.get(name)?.type;
    return type === "person"
      ? names.person(String(value))
      : type === "group"
        ? names.group(String(value))
        : valueWords(value);
  };
  return (
    <dl className="flex flex-col gap-1.5">
      {ci && (
        <>
          <Fact label="CI">
            <Link to="/cis/$id" params={{ id: ci.ci.id }} className="link">
              {ci.ci.name}
            </Link>
            {ci.ci.address && <span className="text-ink-2">, {ci.ci.address}</span>}
          </Fact>
          {Object.entries(ci.ci.attributes).map(([k, v]) => (
            <Fact key={k} label={names.directory?.ciFields.find((f) => f.name === k)?.label ?? k}>
              {valueWords(v)}
            </Fact>
          ))}
          {ci.relations.slice(0, 4).map((r) => (
            <Fact key={r.ci} label={r.outgoing ? r.relation : `is under`}>
              <Link to="/cis/$id" params={{ id: r.ci }} className="link">
                {r.name}
              </Link>
            </Fact>
          ))}
          <Fact label="Also open">{ci.otherOpen === 0 ? "nothing else on this CI" : `${ci.otherOpen} on this CI`}</Fact>
          <Fact label="Before">{ci.recent === 0 ? "nothing in 30 days" : `${ci.recent} in 30 days`}</Fact>
          <div className="my-1 h-px bg-hairline" />
        </>
      )}
      {ticket.room && (
        <Fact label="Room">
          <a className="link" href={ticket.room.link} target="_blank" rel="noreferrer">
            {ticket.room.name}
          </a>
        </Fact>
      )}
      {Object.entries(ticket.parts).map(([as, people]) => (
        <Fact key={as} label={as}>
          <strong>{(people ?? []).map((p) => names.person(p)).join(", ")}</strong>
        </Fact>
      ))}
      {Object.entries(ticket.fields)
        .filter(([name]) => !HIDDEN.has(name) && !(name === "ci" && ci))
        .map(([name, value]) => (
          <Fact key={name} label={labels.get(name)?.label ?? name}>
            {say(name, value)}
          </Fact>
        ))}
    </dl>
  );
}

function Fact({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[96px_1fr] gap-2">
      <dt className="text-ink-2">{label}</dt>
      <dd className="min-w-0 break-words whitespace-pre-wrap">{children}</dd>
    </div>
  );
}

function RequesterTicket({ ticket }: { ticket: Ticket }) {
  const now = useNow();
  const names = useNames();
  const helped = useSend(ticket.number);
  return (
    <>
      <PageHead title={ticket.title} sub={`${ticket.number} · asked ${moment(ticket.createdAt, now)}`} />
      <div className="max-w-2xl p-5">
        {ticket.asks
          .filter((a) => a.mine)
          .map((a, i) => (
            <AskCard key={a.visit} ask={a} ticket={ticket.number} keys={i === 0} />
          ))}
        <p className="mt-3 text-base">
          Where it stands: <strong>{ticket.state}</strong>
          {ticket.ended ? "." : `, last worked on ${moment(ticket.updatedAt, now)}.`}
        </p>
        {ticket.fields.answer !== undefined && (
          <div className="mt-4 rounded-xl border border-well bg-sheet p-4">
            <h2 className="font-semibold text-well">Answer</h2>
            <p className="mt-1 whitespace-pre-wrap">{String(ticket.fields.answer)}</p>
          </div>
        )}
        {ticket.fields.description !== undefined && (
          <div className="mt-4">
            <h2 className="text-sm font-semibold text-ink-2">What you wrote</h2>
            <p className="mt-1 whitespace-pre-wrap">{String(ticket.fields.description)}</p>
          </div>
        )}
        {ticket.questions.map((q) => (
          <div key={q.id} className="mt-4">
            <QuestionCard question={q} ticket={ticket.number} />
          </div>
        ))}
        {!ticket.ended && (
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
        <Talk ticket={ticket} />
        <Files ticket={ticket} mayAttach={!ticket.ended} />
        {ticket.fields.service !== undefined && (
          <p className="mt-4 text-ink-2">About {names.service(String(ticket.fields.service))}</p>
        )}
      </div>
    </>
  );
}

/** What was said between the requester and those who help, and a line to say more. */
function Talk({ ticket }: { ticket: Ticket }) {
  const now = useNow();
  const store = `dastur-note-${ticket.number}`;
  const [text, setText] = useState(() => sessionStorage.getItem(store) ?? "");
  const send = useSend(ticket.number, () => {
    sessionStorage.removeItem(store);
    setText("");
  });
  return (
    <section aria-label="What was said" className="mt-4">
      <ul>
        {ticket.talk.map((t) => (
          <li key={t.seq} className="border-b border-hairline py-2">
            <p className="text-sm text-ink-2">
              {t.mine ? "You" : t.by} · {moment(t.at, now)}
            </p>
            <p className="whitespace-pre-wrap">{t.text ?? "taken off the record"}</p>
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

function NoteDialog({ ticket, open, onClose }: { ticket: Ticket; open: boolean; onClose: () => void }) {
  const store = `dastur-note-${ticket.number}`;
  const [text, setText] = useState(() => sessionStorage.getItem(store) ?? "");
  const [toRequester, setToRequester] = useState(false);
  const send = useSend(ticket.number, () => {
    sessionStorage.removeItem(store);
    setText("");
    onClose();
  });
  return (
    <Dialog title="Add a note" open={open} onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ path: `/api/tickets/${ticket.number}/notes`, body: { text, toRequester } });
        }}
      >
        <TextArea
          label="Note"
          rows={5}
          autoFocus
          required
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            sessionStorage.setItem(store, e.target.value);
          }}
        />
        <Check
          label="Meant for the requester"
          checked={toRequester}
          onChange={(e) => setToRequester(e.target.checked)}
        />
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={send.isPending}>
            Add it to the record
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function StartDialog({ ticket, open, onClose }: { ticket: Ticket; open: boolean; onClose: () => void }) {
  const [workflow, setWorkflow] = useState("");
  const [inputs, setInputs] = useState<FormValues>({});
  const chosen = ticket.startable.find((s) => s.workflow === workflow) ?? ticket.startable[0];
  const send = useSend(ticket.number, onClose);
  return (
    <Dialog title="Start a workflow" open={open} onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ path: `/api/tickets/${ticket.number}/runs`, body: { workflow: chosen?.workflow, inputs } });
        }}
      >
        <Select
          label="Workflow"
          value={chosen?.workflow}
          onChange={(e) => setWorkflow(e.target.value)}
          options={ticket.startable.map((s) => ({ value: s.workflow, label: s.name }))}
        />
        {chosen && chosen.startForm.length > 0 && (
          <FormFields fields={chosen.startForm} values={inputs} onChange={setInputs} />
        )}
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={send.isPending}>
            Start it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
