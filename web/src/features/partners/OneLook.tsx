import { useNames } from "../../api/hooks";
import type { PartnerLook } from "../../api/types";
import { places } from "./words";

/** What one look gave: their tickets as they came, and what their words mean here. */
export function OneLook({ look }: { look: PartnerLook }) {
  const { directory } = useNames();
  const label = (field: string) => directory?.fields.find((f) => f.name === field)?.label ?? field;
  const first = look.tickets[0];
  return (
    <div role="status" className="mt-2 flex flex-col gap-3">
      {look.problem ? (
        <p className="text-late">{look.problem}</p>
      ) : (
        <p>
          {look.count === 0
            ? "It answers; nothing has changed there in the last 30 days."
            : `It answers: ${look.count} changed there in the last 30 days${look.count > look.tickets.length ? `, the first ${look.tickets.length} of them` : ""}.`}
        </p>
      )}
      {first && (
        <datalist id="partner-places">
          {places(first.raw).map((p) => (
            <option key={p.at} value={p.at}>
              {p.value}
            </option>
          ))}
        </datalist>
      )}
      {look.tickets.map((t) => (
        <article key={t.id} aria-label={t.id} className="grid gap-3 rounded border border-hairline p-3 md:grid-cols-2">
          <pre className="max-h-56 overflow-auto rounded bg-raised p-2 text-xs">{t.raw}</pre>
          <div>
            <p className="font-semibold">
              <span className="font-mono text-sm">{t.id}</span> {t.title}
            </p>
            <ul className="mt-1">
              {t.words.map((w) => (
                <li key={w.field} className="text-sm">
                  <span className="text-ink-2">{label(w.field)}:</span> {w.word}{" "}
                  {w.meaning === undefined || w.meaning === null ? (
                    <strong className="text-late">means nothing here</strong>
                  ) : w.meaning !== w.word ? (
                    <>
                      → <strong>{w.meaning}</strong>
                    </>
                  ) : null}
                </li>
              ))}
            </ul>
            <p className="mt-1 text-sm text-ink-2">
              {t.comments === 0
                ? "Nothing was said on it yet"
                : t.comments === 1
                  ? "1 thing was said on it"
                  : `${t.comments} things were said on it`}
              {t.reference && ` · it names our ${t.reference}`}
            </p>
          </div>
        </article>
      ))}
    </div>
  );
}
