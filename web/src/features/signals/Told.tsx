import type { SignalView } from "../../api/types";
import { Looks } from "../ticket/Why";

/** What was asked about a signal, in order, with the answers; then the triggers clause by clause. */
export function Told({ view }: { view: Pick<SignalView, "told" | "looks"> }) {
  return (
    <>
      <ul className="flex flex-col gap-1">
        {view.told.map((t) => (
          <li key={t.asked} className="grid grid-cols-[14px_150px_1fr] gap-x-2 text-sm">
            <span aria-hidden="true" className={t.took ? "text-well" : "text-ink-2"}>
              {t.took ? "✓" : "·"}
            </span>
            <span className={t.took ? "font-semibold" : "text-ink-2"}>
              {t.asked}
              {t.took && <span className="sr-only"> (this decided it)</span>}
            </span>
            <span className={t.took ? "font-semibold" : ""}>{t.answer}</span>
          </li>
        ))}
        {view.told.length === 0 && <li className="text-sm text-ink-2">It only repeats what was said before.</li>}
      </ul>
      {view.looks.length > 0 && (
        <div className="mt-2">
          <Looks looks={view.looks} />
        </div>
      )}
    </>
  );
}
