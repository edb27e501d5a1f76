import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Entry, RecordView, Ticket } from "../../api/types";
import { Together } from "../../ui/Together";
import { clock, exact, moment, sameDay } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { Others } from "../ticket/Facts";
import { Onlookers } from "../ticket/Onlookers";
import { RunRoute } from "../ticket/RunProgress";
import { story } from "../ticket/story";
import { valueWords } from "../ticket/words";

/** How many of the last entries are told, and how many pictures are shown. */
const ENTRIES = 5;
const PICTURES = 4;

/** What one needs to know to act without leaving the Desk (O9): the CI and its neighbours, the route, the last entries, files. */
export function TheCase({ ticket, item }: { ticket: Ticket; item: string }) {
  return (
    <Together key={ticket.number} className="mt-1 grid gap-x-8 gap-y-5 xl:grid-cols-2">
      <div className="-mb-4 xl:col-span-2">
        <Onlookers ticket={ticket.number} />
      </div>
      <TheCi ticket={ticket} />
      <WhereItStands ticket={ticket} item={item} />
      <LastEntries ticket={ticket} />
      <Pictures ticket={ticket} />
    </Together>
  );
}

function Part({ title, wide, children }: { title: string; wide?: boolean; children: ReactNode }) {
  return (
    <section aria-label={title} className={`min-w-0 ${wide ? "xl:col-span-2" : ""}`}>
      <h3 className="mb-1 text-sm font-semibold text-ink-2">{title}</h3>
      {children}
    </section>
  );
}

function Row({ label, children }: { label: ReactNode; children: ReactNode }) {
  return (
    <div className="flex items-baseline justify-between gap-3 border-b border-hairline py-1">
      <dt className="min-w-0">{label}</dt>
      <dd className="min-w-0 text-right wrap-anywhere">{children}</dd>
    </div>
  );
}

const openWords = (open: number) =>
  open === 0 ? (
    <span className="text-well">nothing open</span>
  ) : (
    <span className="font-semibold text-soon">{open} open</span>
  );

function TheCi({ ticket }: { ticket: Ticket }) {
  const names = useNames();
  const ci = ticket.ci;
  if (!ci) return null;
  return (
    <Part title="What it is about">
      <dl>
        <Row
          label={
            <Link to="/cis/$id" params={{ id: ci.ci.id }} className="link">
              {ci.ci.name}
            </Link>
          }
        >
          {ci.otherOpen === 0 ? openWords(0) : <Others others={ci.others} all={ci.otherOpen} />}
        </Row>
        {Object.entries(ci.ci.attributes)
          .slice(0, 3)
          .map(([name, value]) => (
            <Row
              key={name}
              label={
                <span className="text-ink-2">
                  {names.directory?.ciFields.find((f) => f.name === name)?.label ?? name}
                </span>
              }
            >
              {valueWords(value)}
            </Row>
          ))}
        {ci.relations.slice(0, 4).map((r) => (
          <Row
            key={`${r.relation} ${r.ci}`}
            label={
              <>
                <span className="text-ink-2">{r.outgoing ? r.relation : "under it"}</span>{" "}
                <Link to="/cis/$id" params={{ id: r.ci }} className="link">
                  {r.name}
                </Link>
              </>
            }
          >
            {openWords(r.open)}
          </Row>
        ))}
        <Row label={<span className="text-ink-2">Before this</span>}>
          {ci.recent === 0 ? "nothing in 30 days" : `${ci.recent} in 30 days`}
        </Row>
      </dl>
    </Part>
  );
}

/** The run that asks, or else all that are under way. */
function WhereItStands({ ticket, item }: { ticket: Ticket; item: string }) {
  const asking = ticket.runs.filter((r) => item === r.id || item.startsWith(`${r.id}.`));
  const runs = asking.length > 0 ? asking : ticket.runs.filter((r) => !r.endedAt);
  if (runs.length === 0) return null;
  return (
    <Part title="Where it stands">
      {runs.slice(0, 2).map((run) => (
        <div key={run.id} className="mb-2">
          <Link
            to="/tickets/$number/runs/$run"
            params={{ number: ticket.number, run: run.id }}
            className="link text-sm"
          >
            {run.name}
          </Link>
          <div
            // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
            tabIndex={0}
            role="region"
            aria-label={`Route of ${run.name}`}
            className="mt-1 max-h-72 overflow-auto"
          >
            <RunRoute run={run} />
          </div>
        </div>
      ))}
    </Part>
  );
}

function LastEntries({ ticket }: { ticket: Ticket }) {
  const names = useNames();
  const now = useNow();
  const after = Math.max(0, ticket.seq - ENTRIES);
  const last = useQuery({
    queryKey: ["record", ticket.number, "after", after],
    queryFn: () => api.get<RecordView>(`/api/tickets/${ticket.number}/record?after=${after}`),
    enabled: ticket.mayReadRecord,
    placeholderData: keepPreviousData,
  });
  if (!last.data) return null;
  const time = (e: Entry) => (sameDay(e.at, new Date(now).toISOString()) ? clock(e.at) : moment(e.at, now));
  return (
    <Part title="Last on the record" wide>
      <ol>
        {last.data.entries.toReversed().map((e) => {
          const s = story(e, names);
          return (
            <li key={e.seq} className="flex gap-3 border-b border-hairline py-1">
              <time className="shrink-0 text-ink-2" dateTime={e.at} title={exact(e.at)}>
                {time(e)}
              </time>
              <span className="line-clamp-2 min-w-0 wrap-anywhere">
                {s.parts.map((p, i) =>
                  typeof p === "string" ? (
                    p
                  ) : (
                    // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a sentence never move
                    <strong key={i} className={p.late ? "text-late" : ""}>
                      {p.strong}
                    </strong>
                  ),
                )}
                {s.quote && <span className="text-ink-2"> “{s.quote}”</span>}
              </span>
            </li>
          );
        })}
      </ol>
    </Part>
  );
}

function Pictures({ ticket }: { ticket: Ticket }) {
  const files = ticket.files.filter((f) => f.name !== undefined);
  if (files.length === 0) return null;
  const pictures = files.filter((f) => f.type.startsWith("image/")).slice(-PICTURES);
  const others = files.filter((f) => !pictures.includes(f));
  const at = (hash: string) => `/api/tickets/${ticket.number}/files/${hash}`;
  return (
    <Part title="Files" wide>
      {pictures.length > 0 && (
        <ul className="mb-1 flex flex-wrap gap-2">
          {pictures.map((f) => (
            <li key={f.seq}>
              <a href={at(f.hash)} target="_blank" rel="noreferrer">
                <img src={at(f.hash)} alt={f.name} className="h-20 rounded-md border border-hairline" loading="lazy" />
              </a>
            </li>
          ))}
        </ul>
      )}
      <ul className="flex flex-wrap gap-x-4">
        {others.map((f) => (
          <li key={f.seq}>
            <a className="link break-all" href={at(f.hash)} target="_blank" rel="noreferrer">
              {f.name}
            </a>
          </li>
        ))}
      </ul>
    </Part>
  );
}
