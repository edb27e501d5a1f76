import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useId, useState } from "react";
import { api } from "../../api/client";
import { useCatalogue } from "../../api/hooks";
import type { Version } from "../../api/types";
import { allSteps } from "../../route/ofVersion";
import { HelperForm } from "./HelperForm";
import { knownPaths, signalPaths } from "./paths";

interface Props {
  label: string;
  hideLabel?: boolean;
  kind: "condition" | "value" | "text";
  value: string;
  onChange: (text: string) => void;
  /** The draft the expression belongs to; none for conditions of triggers. */
  version?: Version;
  /** Whether it is asked of signals, and not of a ticket. */
  signal?: boolean;
  rows?: number;
  placeholder?: string;
  help?: string;
}

/** An expression or a text with values, checked against the real fields while typing; paths are offered after "{{" or a letter. */
export function ExpressionInput({
  label,
  hideLabel,
  kind,
  value,
  onChange,
  version,
  signal,
  rows = 1,
  placeholder,
  help,
}: Props) {
  const id = useId();
  const [aid, setAid] = useState(false);
  const problem = useProblem(kind, value, version, signal);
  const catalogue = useCatalogue();
  const paths = (signal ? signalPaths(catalogue.data) : knownPaths(version, catalogue.data)).map((k) => k.path);
  const word = /[A-Za-z][A-Za-z0-9_.]*$/.exec(value)?.[0] ?? "";
  const inside = kind !== "text" || value.lastIndexOf("{{") > value.lastIndexOf("}}");
  const offers = inside && word.length > 1 ? paths.filter((p) => p.startsWith(word) && p !== word).slice(0, 6) : [];
  const box = `w-full rounded-lg border bg-sheet px-2.5 py-1.5 ${kind === "text" ? "" : "font-mono text-xs"} ${problem ? "border-late" : "border-hairline focus:border-pine"}`;
  return (
    <div>
      <label htmlFor={id} className={hideLabel ? "sr-only" : "mb-1 block text-sm font-semibold text-ink-2"}>
        {label}
      </label>
      <textarea
        id={id}
        rows={Math.min(8, Math.max(rows, Math.ceil(value.length / 34)))}
        className={box}
        value={value}
        spellCheck={kind === "text"}
        placeholder={placeholder}
        aria-invalid={problem !== undefined}
        onChange={(e) => onChange(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Tab" && offers[0] && !e.shiftKey) {
            e.preventDefault();
            onChange(value.slice(0, value.length - word.length) + offers[0]);
          }
        }}
      />
      {offers.length > 0 && (
        <div className="flex flex-wrap gap-1">
          {offers.map((o, i) => (
            <button
              key={o}
              type="button"
              tabIndex={-1}
              className="rounded border border-hairline bg-raised px-1.5 font-mono text-xs hover:bg-selected"
              onClick={() => onChange(value.slice(0, value.length - word.length) + o)}
            >
              {o}
              {i === 0 && <kbd className="ml-1 text-[10px] text-ink-2">Tab</kbd>}
            </button>
          ))}
        </div>
      )}
      {kind === "value" && (
        <button type="button" className="link mr-3 text-xs" aria-expanded={aid} onClick={() => setAid(!aid)}>
          {aid ? "close the form" : "from data…"}
        </button>
      )}
      {aid && kind === "value" && <HelperForm onWrite={onChange} onClose={() => setAid(false)} />}
      {!signal && !problem && value.trim() !== "" && <Trial kind={kind} text={value} version={version} />}
      {problem ? <ProblemAt problem={problem} /> : help && <p className="mt-0.5 text-xs text-ink-2">{help}</p>}
    </div>
  );
}

interface ExpressionProblem {
  message: string;
  column: number;
}

/** What is wrong with an expression against the real fields; undefined while nothing is known to be. */
export function useProblem(
  kind: Props["kind"],
  value: string,
  version: Version | undefined,
  signal?: boolean,
): ExpressionProblem | undefined {
  const asked = useDeferredValue(value);
  const check = useQuery({
    queryKey: [
      "check",
      kind,
      asked,
      signal,
      version &&
        allSteps(version.body.steps)
          .map((s) => s.id)
          .join(),
      version?.startForm,
      version?.vars,
    ],
    queryFn: () =>
      api.post<{ problem?: ExpressionProblem }>("/api/catalogue/check", {
        kind,
        text: asked,
        ...(version ? { version } : {}),
        ...(signal ? { signal } : {}),
      }),
    enabled: asked.trim() !== "",
    staleTime: 60_000,
    retry: false,
  });
  return asked.trim() === "" ? undefined : check.data?.problem;
}

export function ProblemAt({ problem }: { problem: ExpressionProblem }) {
  return (
    <p role="alert" className="mt-0.5 text-xs text-late">
      {problem.message} <span className="text-ink-2">(column {problem.column})</span>
    </p>
  );
}

interface Tried {
  explained?: {
    verdict: string;
    clauses: { text: string; verdict: string; seen: Record<string, unknown>; absent: string[] }[];
  };
  result?: string;
  absent: string[];
}

const lastTried = { ticket: "" };

/** What it gives on a real ticket, a condition clause by clause with the values seen. */
export function Trial({ kind, text, version }: { kind: Props["kind"]; text: string; version?: Version }) {
  const [open, setOpen] = useState(false);
  const [ticket, setTicket] = useState(lastTried.ticket);
  const number = /^[ICR]-\d+$/.test(ticket.trim()) ? ticket.trim() : undefined;
  const tried = useQuery({
    queryKey: ["try", kind, text, number, version?.startForm, version?.vars],
    queryFn: () =>
      api.post<Tried>("/api/catalogue/try", { kind, text, ticket: number, ...(version ? { version } : {}) }),
    enabled: open && number !== undefined,
    retry: false,
  });
  if (!open)
    return (
      <button type="button" className="link text-xs" onClick={() => setOpen(true)}>
        try it on a ticket
      </button>
    );
  return (
    <div className="mt-1 rounded-lg border border-hairline p-1.5 text-xs">
      <input
        aria-label="Ticket to try it on"
        autoFocus
        className="w-28 rounded border border-hairline bg-sheet px-1.5 py-0.5"
        placeholder="I-1043"
        value={ticket}
        onChange={(e) => {
          setTicket(e.target.value);
          lastTried.ticket = e.target.value;
        }}
      />
      {tried.isError && <p className="text-late">{tried.error.message}</p>}
      {tried.data?.explained && (
        <>
          <p className="mt-1 font-semibold">
            {tried.data.explained.verdict === "true"
              ? "It holds."
              : tried.data.explained.verdict === "false"
                ? "It does not hold."
                : "It cannot say."}
          </p>
          <ul>
            {tried.data.explained.clauses.map((c) => (
              <li key={c.text}>
                <code className="font-mono">{c.text}</code>: {c.verdict}
                <span className="text-ink-2">
                  {Object.entries(c.seen).map(([k, v]) => `, ${k} is ${String(v)}`)}
                  {c.absent.map((a) => `, ${a} is absent`)}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      {tried.data && !tried.data.explained && (
        <p className="mt-1 whitespace-pre-wrap">
          {tried.data.result ?? "No value."}
          {tried.data.absent.length > 0 && <span className="text-soon"> Absent: {tried.data.absent.join(", ")}</span>}
        </p>
      )}
    </div>
  );
}
