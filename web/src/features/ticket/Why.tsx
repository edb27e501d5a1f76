import { Link } from "@tanstack/react-router";
import { useNames } from "../../api/hooks";
import type { EntryOf, Look } from "../../api/types";
import { conditionWords, fieldWords, seenWords } from "../designer/conditionWords";
import { valueWords } from "./words";

/** Why workflows did or did not start: each trigger looked at, clause by clause, with the values it saw. */
export function Why({ entry, started }: { entry: EntryOf<"triggersLookedAt">; started: string[] }) {
  const looks = entry.content?.looks ?? [];
  const nothing = looks.every((l) => !l.started);
  return (
    <details className="mt-1" open={nothing && started.length === 0}>
      <summary className="link w-fit cursor-pointer text-sm">why</summary>
      <div className="mt-1">
        <Looks looks={looks} />
      </div>
    </details>
  );
}

/** Triggers that were looked at, each with why it did or did not start something. */
export function Looks({
  looks,
  now,
}: {
  looks: Look[] /** Whether it is told what would be, and not what was. */;
  now?: boolean;
}) {
  const names = useNames();
  return (
    <ul className="flex flex-col gap-2">
      {looks.map((l) => (
        <li key={l.trigger} className="text-sm">
          <p>
            <span aria-hidden className={l.started ? "text-well" : "text-ink-2"}>
              {l.started ? "✓" : "✗"}
            </span>{" "}
            <Link to="/workflows/$key" params={{ key: l.workflow }} className="link">
              {l.name}
            </Link>{" "}
            {now
              ? l.started
                ? "would start, because"
                : l.mode
                  ? "would not start by itself:"
                  : "would not start:"
              : l.started
                ? "started, because"
                : l.mode
                  ? "did not start by itself:"
                  : "did not start:"}{" "}
            {l.why}
          </p>
          {l.condition && (
            <table className="mt-0.5 ml-5">
              <tbody>
                {l.condition.clauses.map((c) => (
                  <tr key={c.text}>
                    <td
                      className={`pr-3 align-top whitespace-nowrap ${c.verdict === "true" ? "text-well" : "font-semibold text-late"}`}
                    >
                      {c.verdict === "true" ? "✓ holds" : c.verdict === "false" ? "✗ does not" : "? cannot say"}
                    </td>
                    <td className="pr-3 align-top" title={c.text}>
                      {conditionWords(c.text, names.field)}
                    </td>
                    <td className="align-top text-ink-2">
                      {[
                        ...Object.entries(c.seen).map(([k, v]) => seenWords(k, v, valueWords(v), names.field)),
                        ...c.absent.map((a) => `${fieldWords(a, names.field)} has no value`),
                      ].join(", ")}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </li>
      ))}
    </ul>
  );
}
