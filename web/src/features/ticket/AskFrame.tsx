import { use } from "react";
import { useNames } from "../../api/hooks";
import type { Ask } from "../../api/types";
import { Off } from "../../ui/kit";
import { exact, left, moment, span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { conditionWords } from "../designer/conditionWords";
import { assignedWords, deedWords } from "./words";

/** What is asked, for whom, since when, how long it may take, and what happens if nobody acts. */
export function Frame({ ask, calm, children }: { ask: Ask; calm?: boolean; children: React.ReactNode }) {
  const now = useNow();
  const names = useNames();
  // How long it may take, and what follows if nobody acts, is of no more use once somebody has acted.
  const over = use(Off);
  const next = ask.ifNobodyActs[0];
  const late = ask.due !== undefined && new Date(ask.due).getTime() < now;
  return (
    <section
      aria-label={ask.name}
      className={`rounded-xl border p-4 ${calm ? "border-hairline bg-sheet" : "border-selected-edge bg-selected"}`}
    >
      <h2 className="text-base font-bold">
        {ask.name}
        {ask.item && <span className="ml-2 font-mono text-sm font-normal text-ink-2">{ask.item}</span>}
      </h2>
      {ask.coverFor && (
        <p className="mt-0.5 font-semibold text-soon">You act for {names.person(ask.coverFor)}, who is away.</p>
      )}
      {ask.heldSince && (
        <p className="mt-0.5 font-semibold text-soon">
          On hold since <span title={exact(ask.heldSince)}>{moment(ask.heldSince, now)}</span>: no answer is taken until
          somebody resumes it. What you type is kept.
        </p>
      )}
      {ask.text && (
        <p className="mt-0.5 whitespace-pre-wrap">
          {ask.kind === "wait" && ask.text.startsWith("Until ")
            ? `Until ${conditionWords(ask.text.slice(6), names.field)}`
            : ask.text}
        </p>
      )}
      {!over && ask.kind !== "machine" && ask.kind !== "wait" && (
        <p className="mt-1 text-ink-2">
          {ask.task && `For ${assignedWords(ask.task.to, names)} · `}
          {ask.task?.claimedBy && `claimed by ${names.person(ask.task.claimedBy)} · `}
          {ask.approval?.questionOpen ? (
            <span className="font-semibold text-soon">
              a question is open: the clocks stand still until it is answered
            </span>
          ) : ask.heldSince ? (
            "its clocks stand still"
          ) : ask.due ? (
            <span className={late ? "font-semibold text-late" : ""} title={exact(ask.due)}>
              {late
                ? `due ${span(now - new Date(ask.due).getTime())} ago`
                : `${left(ask.due, now)} left, until ${moment(ask.due, now)}`}
            </span>
          ) : (
            `since ${moment(ask.openedAt, now)}`
          )}
          {next && !ask.heldSince && !ask.approval?.questionOpen && (
            <>
              {" · if nobody acts, "}
              <span title={exact(next.at)}>{moment(next.at, now)}</span>:{" "}
              {next.deed ? deedWords(next.deed, names) : next.kind === "lapse" ? "lapses" : "goes on as overdue"}
            </>
          )}
        </p>
      )}
      <div className="mt-3">
        <Off value={over || ask.heldSince !== undefined}>{children}</Off>
      </div>
    </section>
  );
}
