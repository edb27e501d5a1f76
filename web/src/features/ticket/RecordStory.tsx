import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { useNames } from "../../api/hooks";
import type { Entry, RecordView, Ticket } from "../../api/types";
import { LongText, Trouble } from "../../ui/kit";
import { clockSeconds, day, exact, sameDay, span } from "../../ui/time";
import { isTable, ValueTable } from "../../ui/ValueTable";
import { bringsValues } from "../compare/pairing";
import { administers, useSession } from "../signin/session";
import { isList, RowsOnDemand } from "./ListRows";
import { LENSES, type Lens, lensOf, markOf } from "./lenses";
import { lookAt, lookedAt } from "./looked";
import { RedactDialog } from "./RedactDialog";
import { story } from "./story";
import { Why } from "./Why";
import { valueWords } from "./words";

const GAP = 120_000;

/** The record as the story of the case: time on the left, what happened, number on the right, gaps in words. */
export function RecordStory({
  ticket,
  record,
  step,
  onStep,
  onThen,
}: {
  ticket: Ticket;
  record: RecordView;
  step?: string;
  onStep: (step: string | undefined) => void;
  /** Goes to the ticket as it stood after an entry. */
  onThen?: (seq: number) => void;
}) {
  const [lens, setLens] = useState<Lens>("Everything");
  const [error, setError] = useState<unknown>();
  const [redacting, setRedacting] = useState<number>();
  const names = useNames();
  const [newest, setNewest] = useState(() => localStorage.getItem(ORDER) === "newest");
  // What came since somebody last looked, up to what stood here when they came: what comes now is seen coming.
  const last = record.entries.at(-1)?.seq ?? 0;
  const [since] = useState(() => ({ from: lookedAt(ticket.number), upto: last }));
  useEffect(() => lookAt(ticket.number, last), [ticket.number, last]);
  const isNew = (e: Entry) => since.from !== undefined && e.seq > since.from && e.seq <= since.upto;
  const mayRedact = administers(useSession().session);
  const shown = record.entries.filter(
    (e) => (lens === "Everything" || lensOf(e) === lens) && (step === undefined || e.step === step),
  );
  const fresh = shown.filter(isNew);
  const listed = newest ? shown.toReversed() : shown;
  // The line parts what is new from what was read, whichever end is on top.
  const mark = fresh.length > 0 && fresh.length < shown.length ? fresh[0]?.seq : undefined;
  const download = async () => {
    try {
      const response = await fetch(`/api/tickets/${ticket.number}/record`, {
        headers: { Accept: "application/x-ndjson" },
      });
      if (!response.ok) throw new Error();
      const link = document.createElement("a");
      link.href = URL.createObjectURL(await response.blob());
      link.download = `${ticket.number}.ndjson`;
      link.click();
      URL.revokeObjectURL(link.href);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <section aria-label="Record">
      <div className="sticky top-0 z-10 flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-hairline bg-sheet px-5 py-2.5">
        <div role="group" aria-label="Show" className="flex flex-wrap gap-x-3">
          {LENSES.map((l) => (
            <button
              key={l}
              type="button"
              aria-pressed={l === lens}
              className={l === lens ? "border-b-2 border-ink font-semibold" : "text-ink-2 hover:text-ink"}
              onClick={() => setLens(l)}
            >
              {l}
            </button>
          ))}
        </div>
        {step && (
          <button
            type="button"
            className="rounded-full border border-hairline bg-selected px-2 text-xs"
            onClick={() => onStep(undefined)}
          >
            one step only ✕
          </button>
        )}
        {mark !== undefined && (
          <button
            type="button"
            className="rounded-full border border-pine bg-selected px-2 text-xs font-semibold"
            onClick={() => document.getElementById(`entry-${mark}`)?.scrollIntoView({ block: "center" })}
          >
            {fresh.length} new since you looked
          </button>
        )}
        <button
          type="button"
          className="link text-sm"
          onClick={() => {
            localStorage.setItem(ORDER, newest ? "oldest" : "newest");
            setNewest(!newest);
          }}
        >
          {newest ? "oldest first" : "newest first"}
        </button>
        {onThen && last > 1 && (
          <button type="button" className="link text-sm" onClick={() => onThen(last)}>
            as it stood…
          </button>
        )}
        <span className="ml-auto text-ink-2">
          {record.unbroken ? (
            <span title={`Every entry follows the one before it. Signed up to entry ${record.anchored}.`}>
              sealed, {record.entries.length} of {record.entries.length} ✓
            </span>
          ) : (
            <span className="font-semibold text-late">
              seal broken at entry {record.brokenAt}: {record.why}
            </span>
          )}{" "}
          ·{" "}
          <button type="button" className="link" onClick={download}>
            export
          </button>
        </span>
      </div>
      {error !== undefined && (
        <div className="p-4">
          <Trouble error={error} />
        </div>
      )}
      <ol>
        {listed.map((entry, i) => (
          <Line
            key={entry.seq}
            entry={entry}
            before={listed[i - 1]}
            newest={newest}
            news={isNew(entry)}
            mark={entry.seq === mark}
            far={i >= NEAR}
            names={names}
            onStep={onStep}
            onThen={onThen}
            ticket={ticket}
            onRedact={mayRedact ? setRedacting : undefined}
          />
        ))}
      </ol>
      {shown.length === 0 && <p className="p-6 text-ink-2">Nothing of this kind has happened yet.</p>}
      <RedactDialog key={redacting} ticket={ticket} seq={redacting} onClose={() => setRedacting(undefined)} />
    </section>
  );
}

/** Which end of the record stands on top, kept in this browser. */
const ORDER = "dastur-record-order";

/** So many entries stand before one when a record opens: their height is not guessed, since what follows would jump. */
const NEAR = 40;

/**
 * @param mark whether what is new begins with it
 * @param far whether it is laid out only once somebody comes near
 */
function Line({
  entry,
  before,
  newest,
  news,
  mark,
  far,
  names,
  onStep,
  onThen,
  ticket,
  onRedact,
}: {
  entry: Entry;
  before?: Entry;
  newest: boolean;
  news: boolean;
  mark: boolean;
  far: boolean;
  names: ReturnType<typeof useNames>;
  onStep: (s: string) => void;
  onThen?: (seq: number) => void;
  ticket: Ticket;
  onRedact?: (seq: number) => void;
}) {
  const gap = before ? Math.abs(new Date(entry.at).getTime() - new Date(before.at).getTime()) : 0;
  const newDay = !before || !sameDay(before.at, entry.at);
  const s = story(entry, names);
  const looks = entry.kind === "triggersLookedAt";
  const line = mark && (
    <li className="border-b border-pine py-0.5 pl-[118px] text-xs font-semibold text-pine">
      new since you looked {newest ? "↑" : "↓"}
    </li>
  );
  return (
    <>
      {!newest && line}
      {newDay && (
        <li className="border-b border-hairline bg-raised py-0.5 pl-[118px] text-xs text-ink-2">{day(entry.at)}</li>
      )}
      {!newDay && gap >= GAP && (
        <li className="border-b border-hairline py-0.5 pl-[118px] text-xs text-ink-2">
          {span(gap)} {newest ? "before" : "later"}
        </li>
      )}
      <li
        id={`entry-${entry.seq}`}
        style={far ? { contentVisibility: "auto", containIntrinsicHeight: "auto 40px" } : undefined}
        className={`group relative grid grid-cols-[64px_18px_minmax(0,1fr)_20px] gap-x-1.5 border-b border-hairline px-3 py-2 md:grid-cols-[72px_22px_minmax(0,1fr)_36px] md:gap-x-2 md:px-5 ${news ? "shadow-[inset_3px_0_0_var(--pine)]" : ""}`}
      >
        <time className="text-right text-ink-2" dateTime={entry.at} title={exact(entry.at)}>
          {clockSeconds(entry.at)}
        </time>
        <span
          aria-hidden
          className={`text-center ${s.tone === "late" ? "text-late" : s.tone === "well" ? "text-well" : "text-pine"}`}
        >
          {markOf(entry)}
        </span>
        <div className="min-w-0">
          <p className="wrap-anywhere">
            {s.parts.map((p, i) =>
              typeof p === "string" ? (
                // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a sentence never move
                <span key={i}>{p}</span>
              ) : (
                // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a sentence never move
                <strong key={i} className={p.late ? "text-late" : ""}>
                  {p.strong}
                </strong>
              ),
            )}
          </p>
          {s.sub && (
            <p className="text-sm text-ink-2">
              {s.sub}
              {entry.step && (
                <>
                  {" · "}
                  <button type="button" className="link" onClick={() => entry.step && onStep(entry.step)}>
                    this step
                  </button>
                </>
              )}
            </p>
          )}
          {s.quote && (
            <blockquote className="mt-1 border-l-2 border-hairline pl-2">
              <LongText text={s.quote} />
            </blockquote>
          )}
          {s.log && (
            <pre className="mt-1 max-h-40 overflow-auto rounded-md bg-here p-2 font-mono text-xs whitespace-pre-wrap wrap-anywhere">
              {s.log}
            </pre>
          )}
          {s.rows && !(isList(entry) && entry.visit) && (
            <table className="mt-1 text-sm">
              <tbody>
                {s.rows.map((r) => (
                  <tr key={r[0]}>
                    <th className="pr-4 text-left align-top font-normal text-ink-2">{r[0]}</th>
                    <td className="wrap-anywhere">
                      {isTable(r[2]) ? <ValueTable rows={r[2]} words={valueWords} /> : <LongText text={r[1]} />}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {bringsValues(entry) && (
            <Link
              to="/compare"
              search={{ after: `${ticket.number}:${entry.seq}` }}
              className="link text-sm"
              aria-label={`compare what entry ${entry.seq} brought`}
            >
              compare
            </Link>
          )}
          {isList(entry) && entry.visit && <RowsOnDemand ticket={ticket.number} visit={entry.visit} />}
          {looks && <Why entry={entry} started={ticket.runs.map((r) => r.workflow)} />}
          {entry.redacted && (
            <p className="text-sm text-ink-2">The content of this entry was redacted; its seal still holds.</p>
          )}
          {onRedact && !entry.redacted && Object.keys(entry.content ?? {}).length > 0 && (
            <button
              type="button"
              className="link absolute right-5 bottom-1 bg-sheet pl-2 text-xs text-ink-2 opacity-0 group-hover:opacity-100 focus-visible:opacity-100 [@media(hover:none)]:opacity-100"
              onClick={() => onRedact(entry.seq)}
            >
              redact entry {entry.seq}…
            </button>
          )}
        </div>
        {onThen ? (
          <button
            type="button"
            className="self-start justify-self-end text-right text-xs text-ink-2 hover:underline"
            title="The ticket as it stood then"
            aria-label={`As it stood after entry ${entry.seq}`}
            onClick={() => onThen(entry.seq)}
          >
            {entry.seq}
          </button>
        ) : (
          <span className="text-right text-xs text-ink-2">{entry.seq}</span>
        )}
      </li>
      {newest && line}
    </>
  );
}
