import { useNames } from "../../api/hooks";
import type { RecordView, Ticket } from "../../api/types";
import { span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { type Had, whereTimeWent } from "./went";
import { assignedWords } from "./words";

/** Told apart by pattern and by the words below: colour is spent on what is late. */
const LOOKS: Record<Had, string> = {
  people: "bg-pine",
  decision: "bg-pine/60",
  machine: "bg-detour",
  waiting: "bg-hairline",
  nobody: "hatched",
};

/** A ticket's whole time as a bar, by who had it (G13). */
export function WhereTimeWent({ ticket, record }: { ticket: Ticket; record: RecordView }) {
  const names = useNames();
  const now = useNow();
  const until = ticket.ended ? Date.parse(record.entries.at(-1)?.at ?? "") : now;
  const went = whereTimeWent(record.entries, ticket.runs, until, (to) => assignedWords(to, names));
  const whole = went.reduce((n, s) => n + s.took, 0);
  if (whole < 1_000) return null;
  return (
    <section aria-label="Where time went" className="mb-6">
      <h2 className="mb-1 font-bold">
        Where time went <span className="font-normal text-ink-2">{span(whole)}</span>
      </h2>
      <div aria-hidden="true" className="flex h-3 overflow-hidden rounded-full border border-hairline">
        {went.map((s) => (
          <span
            key={`${s.had} ${s.who}`}
            title={`${s.who}: ${span(s.took)}`}
            className={`${LOOKS[s.had]} border-r border-sheet last:border-r-0`}
            style={{ flexGrow: s.took, flexBasis: 0, minWidth: 2 }}
          />
        ))}
      </div>
      <ul className="mt-1 text-sm">
        {went.map((s) => (
          <li key={`${s.had} ${s.who}`} className="flex items-baseline gap-2">
            <span
              aria-hidden="true"
              className={`size-2.5 shrink-0 rounded-sm border border-hairline ${LOOKS[s.had]}`}
            />
            <span className="min-w-0 flex-1 wrap-anywhere">{s.had === "decision" ? `deciding: ${s.who}` : s.who}</span>
            <span className="shrink-0 text-ink-2">{span(s.took)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
