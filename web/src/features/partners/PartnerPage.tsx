import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { PartnerLogLine, PartnerView, Theirs } from "../../api/types";
import { Button, Chip, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { designs, useSession, works } from "../signin/session";
import { HowJoined } from "./HowJoined";
import { TakeOver } from "./TakeOver";
import { pretty, standWords, summary, verdictWords } from "./words";

export type PartnerTab = "tickets" | "log" | "joined";

const TABS: [PartnerTab, string][] = [
  ["tickets", "Tickets"],
  ["log", "What came and went"],
  ["joined", "How it is joined"],
];

/** A partner's desk: its tickets and ours, what came and went, and how it is spoken to. */
export function PartnerPage() {
  const { key } = useParams({ from: "/partners/$key" });
  const { tab = "tickets" } = useSearch({ from: "/partners/$key" });
  const navigate = useNavigate();
  const now = useNow();
  const { session } = useSession();
  const partner = useQuery({
    queryKey: ["partner", key],
    queryFn: () => api.get<PartnerView>(`/api/partners/${key}`),
    refetchInterval: tab === "joined" ? false : 3_000,
  });
  const queries = useQueryClient();
  const look = useMutation({
    mutationFn: () => api.post(`/api/partners/${key}/again`, {}),
    onSettled: () => queries.invalidateQueries({ queryKey: ["partner", key] }),
  });
  if (partner.isPending) return <Loading what="the partner" />;
  if (partner.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={partner.error}>
          <Link to="/partners" className="link">
            All partners
          </Link>
        </Trouble>
      </div>
    );
  const { line, tickets, log } = partner.data;
  const { words, late } = standWords(line, (at) => moment(at, now));
  return (
    <>
      <PageHead
        title={line.name}
        sub={
          <span className="flex flex-wrap gap-x-1.5">
            <span className={late ? "font-semibold text-late" : ""}>{words}</span>
            {line.on && !late && <span>· every {line.every}</span>}
            {works(session) && line.on && (
              <>
                <span>·</span>
                <button type="button" className="link" disabled={look.isPending} onClick={() => look.mutate()}>
                  look now
                </button>
              </>
            )}
          </span>
        }
      >
        {TABS.map(([id, label]) => (
          <Button
            key={id}
            look={tab === id ? "plain" : "quiet"}
            aria-current={tab === id ? "page" : undefined}
            onClick={() => navigate({ to: "/partners/$key", params: { key }, search: { tab: id }, replace: true })}
          >
            {label}
          </Button>
        ))}
        <Link to="/partners" className="link self-center">
          All partners
        </Link>
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {look.isError && <Trouble error={look.error} />}
        {line.problem && (
          <p role="status" className="mb-4 max-w-4xl rounded border border-late bg-raised p-2 text-sm">
            <strong className="text-late">{line.failingSince ? "Not reached:" : "Not all could be read:"}</strong>{" "}
            {line.problem}
            {line.failingSince && line.next && (
              <span className="text-ink-2">
                {" "}
                What is said meanwhile waits. Tried again at {moment(line.next, now)}.
              </span>
            )}
          </p>
        )}
        {tab === "tickets" && (
          <>
            <TakeOver view={partner.data} may={designs(session)} />
            <Tickets partner={key} tickets={tickets} />
          </>
        )}
        {tab === "log" && <Log lines={log} />}
        {tab === "joined" && <HowJoined key={key} view={partner.data} may={designs(session)} />}
      </div>
    </>
  );
}

const STATES: Record<string, string> = {
  new: "just came",
  told: "no ticket here is about it",
  followed: "followed",
  over: "no longer followed",
};

function Tickets({ partner, tickets }: { partner: string; tickets: Theirs[] }) {
  const now = useNow();
  const queries = useQueryClient();
  const again = useMutation({
    mutationFn: (id: string) => api.post(`/api/partners/${partner}/again`, { id }),
    onSettled: () => queries.invalidateQueries({ queryKey: ["partner", partner] }),
  });
  if (tickets.length === 0)
    return (
      <Empty title="None of their tickets has come yet">
        What changes there from now on stands here, and what our workflows raise there. What was open before may be
        taken over.
      </Empty>
    );
  return (
    <section aria-label="Their tickets" className="max-w-5xl">
      {again.isError && <Trouble error={again.error} />}
      <table className="w-full text-left">
        <thead className="text-sm text-ink-2">
          <tr>
            <th className="py-1 pr-4 font-semibold">Theirs</th>
            <th className="py-1 pr-4 font-semibold">Ours</th>
            <th className="py-1 pr-4 font-semibold">What it is about</th>
            <th className="py-1 pr-4 font-semibold">Came last</th>
            <th className="py-1">
              <span className="sr-only">Again</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {tickets.map((t) => (
            <tr key={t.id} className="border-t border-hairline align-baseline">
              <td className="py-1.5 pr-4 font-mono text-sm whitespace-nowrap">{t.id}</td>
              <td className="py-1.5 pr-4 whitespace-nowrap">
                {t.ticket ? (
                  <Link to="/tickets/$number" params={{ number: t.ticket }} className="link">
                    {t.ticket}
                  </Link>
                ) : (
                  <span className="text-ink-2">none</span>
                )}
              </td>
              <td className="py-1.5 pr-4">
                <span className="wrap-anywhere">{t.title}</span>{" "}
                {t.state === "over" ? (
                  <Chip tone="soon">{STATES[t.state]}</Chip>
                ) : (
                  <span className="text-sm text-ink-2">{STATES[t.state] ?? t.state}</span>
                )}
                {t.problem && <p className="text-sm text-late">{t.problem}</p>}
              </td>
              <td className="py-1.5 pr-4 whitespace-nowrap text-ink-2" title={exact(t.seenAt)}>
                {moment(t.seenAt, now)}
              </td>
              <td className="py-1.5 text-right">
                <Button
                  look="quiet"
                  aria-label={`Compare again: ${t.id}`}
                  disabled={again.isPending}
                  onClick={() => again.mutate(t.id)}
                >
                  Compare again
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {tickets.length >= 100 && <p className="mt-2 text-sm text-ink-2">The last 100 are shown.</p>}
    </section>
  );
}

function Log({ lines }: { lines: PartnerLogLine[] }) {
  const now = useNow();
  const [open, setOpen] = useState<string>();
  if (lines.length === 0)
    return (
      <Empty title="Nothing came or went yet">
        Each ticket, change and word stands here, as it came and as it was understood.
      </Empty>
    );
  return (
    <ul aria-label="What came and went" className="max-w-5xl">
      {lines.map((l) => {
        const { words, tone } = verdictWords(l);
        const shown = open === l.id;
        return (
          <li key={l.id} className="border-b border-hairline py-1.5">
            <button
              type="button"
              aria-expanded={shown}
              className="flex w-full flex-wrap items-baseline gap-x-4 text-left hover:bg-raised"
              onClick={() => setOpen(shown ? undefined : l.id)}
            >
              <span className="w-36 shrink-0 text-sm text-ink-2" title={exact(l.at)}>
                {moment(l.at, now)}
              </span>
              <span className="w-16 shrink-0 text-sm font-semibold">{l.way === "in" ? "← in" : "out →"}</span>
              <span className="w-20 shrink-0 font-mono text-sm">{l.theirs}</span>
              <span
                className={`w-48 shrink-0 ${tone === "late" ? "text-late" : tone === "soon" ? "text-soon" : "text-ink"}`}
              >
                {words}
              </span>
              <span className="w-16 shrink-0 text-sm text-ink-2">{l.ticket ?? ""}</span>
              <span className="min-w-0 flex-1 text-sm wrap-anywhere text-ink-2">{l.why ?? summary(l)}</span>
            </button>
            {shown && (
              <div className="mt-1 grid gap-3 md:grid-cols-2">
                <figure>
                  <figcaption className="text-sm font-semibold text-ink-2">
                    {l.way === "in" ? "As it came" : "As it went"}
                  </figcaption>
                  <pre className="max-h-72 overflow-auto rounded bg-raised p-2 text-xs">
                    {pretty(l.raw) || "nothing"}
                  </pre>
                </figure>
                {l.meant && (
                  <figure>
                    <figcaption className="text-sm font-semibold text-ink-2">What it means here</figcaption>
                    <pre className="max-h-72 overflow-auto rounded bg-raised p-2 text-xs">{pretty(l.meant)}</pre>
                  </figure>
                )}
                {l.ticket && (
                  <p className="text-sm">
                    On{" "}
                    <Link to="/tickets/$number" params={{ number: l.ticket }} className="link">
                      {l.ticket}
                    </Link>
                  </p>
                )}
              </div>
            )}
          </li>
        );
      })}
    </ul>
  );
}
