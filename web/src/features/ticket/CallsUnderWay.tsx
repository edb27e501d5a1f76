import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { CallLine, SaidSoFar } from "../../api/types";
import { span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { heldWords } from "../actions/held";

/** How much of what a call says stands on the page; the whole is on its record, or in what was kept of it. */
const SHOWN = 20_000;

/** What machines are at on a ticket, with what they say while they go on (M7, M8); nothing where none is. */
export function CallsUnderWay({ ticket }: { ticket: string }) {
  const calls = useQuery({
    queryKey: ["ticket", ticket, "calls"],
    queryFn: () => api.get<CallLine[]>(`/api/tickets/${ticket}/calls`),
    refetchInterval: 2_000,
  });
  if (!calls.data?.length) return null;
  return (
    <section aria-label="Machines at work" className="flex flex-col gap-2 px-5 pt-4">
      {calls.data.map((c) => (
        <OneCall key={`${c.visit}.${c.attempt}`} ticket={ticket} call={c} />
      ))}
    </section>
  );
}

function OneCall({ ticket, call }: { ticket: string; call: CallLine }) {
  const now = useNow();
  const names = useNames();
  const said = useSaid(ticket, call);
  const since = now - new Date(call.since).getTime();
  const far = howFar(said);
  return (
    <div className="rounded-xl border border-hairline bg-sheet px-4 py-2.5">
      <p className="flex flex-wrap items-baseline gap-x-2">
        <strong>{call.step}</strong>
        <span className="text-ink-2">
          {call.over ? "waits or is under way" : "is under way"} for {span(since)}
          {call.attempt > 1 && `, try ${call.attempt}`}
          {call.usually !== undefined &&
            call.usually !== null &&
            `; usually it takes ${span(Math.max(call.usually, 1_000))}`}
          {" · "}
          <Link to="/actions/$key" params={{ key: call.action }} className="link">
            the action
          </Link>
        </span>
      </p>
      {call.over && (
        <p role="status" className="mt-1 font-semibold text-late">
          {heldWords(call.over.connection, call.over.held, now, names)}
        </p>
      )}
      {far && (
        <div className="mt-1.5 flex items-center gap-3">
          <div
            role="progressbar"
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={far.percent}
            aria-label={`How far ${call.step} is`}
            className="h-2 w-48 overflow-hidden rounded-full bg-here"
          >
            <div className="h-full bg-pine" style={{ width: `${far.percent}%` }} />
          </div>
          <span role="status">
            <strong>{far.percent} %</strong>
            {far.words && <span className="text-ink-2"> {far.words}</span>}
          </span>
        </div>
      )}
      {said && (
        <pre
          role="log"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys
          tabIndex={0}
          aria-label={`What ${call.step} says`}
          className="mt-1 max-h-48 overflow-auto rounded-lg bg-here p-2 text-xs break-all whitespace-pre-wrap"
        >
          {said}
        </pre>
      )}
    </div>
  );
}

/** How far a call says it is: its last line of that kind, such as "40 %: its disk is copied". */
export function howFar(said: string): { percent: number; words: string } | undefined {
  for (const line of said.trimEnd().split("\n").reverse()) {
    const told = /^(\d{1,3}) %(?:: (.*))?$/.exec(line);
    if (told) return { percent: Math.min(100, Number(told[1])), words: told[2] ?? "" };
  }
  return undefined;
}

/** What it said so far; only what is new is fetched. */
function useSaid(ticket: string, call: CallLine): string {
  const [soFar, setSoFar] = useState({ text: "", next: 0 });
  useQuery({
    queryKey: ["ticket", ticket, "said", call.visit, call.attempt],
    queryFn: async () => {
      const from = soFar.next;
      const more = await api.get<SaidSoFar>(`/api/tickets/${ticket}/calls/${call.visit}/${call.attempt}?from=${from}`);
      // Asked twice at once, the same part is taken once.
      setSoFar((s) => (s.next === from ? { text: (s.text + more.text).slice(-SHOWN), next: more.next } : s));
      return more.next;
    },
    refetchInterval: 1_000,
  });
  return soFar.text;
}
