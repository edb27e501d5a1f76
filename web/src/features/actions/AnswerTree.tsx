import { under } from "./answer";

/** Rows of a list that are shown; a longer answer is read with its log. */
const MOST = 50;

/** An answer, to point at: a click makes an output of a value, where one may be made. */
export function AnswerTree({
  value,
  pointer = "",
  read,
  onPick,
}: {
  value: unknown;
  pointer?: string;
  /** Names of outputs, by the place they are read from. */
  read: Map<string, string>;
  onPick?: (pointer: string, value: unknown) => void;
}) {
  const rows: [string | number, unknown][] = Array.isArray(value)
    ? value.map((v, i) => [i, v])
    : value !== null && typeof value === "object"
      ? Object.entries(value)
      : [];
  return (
    <ul className={pointer ? "border-l border-hairline pl-3" : ""}>
      {rows.slice(0, MOST).map(([key, inner]) => {
        const place = under(pointer, key);
        const whole = inner !== null && typeof inner === "object";
        const name = read.get(place);
        return (
          <li key={key} className="py-0.5">
            <span className="flex flex-wrap items-baseline gap-x-2">
              <span className="font-mono text-xs text-ink-2">{key}</span>
              {!whole && (
                <span className="min-w-0 font-mono text-xs break-all whitespace-pre-wrap">{shown(inner)}</span>
              )}
              {name ? (
                <span className="text-xs text-well">read as {name}</span>
              ) : (
                onPick && (
                  <button
                    type="button"
                    className="link text-xs"
                    aria-label={`Read ${place} as an output`}
                    onClick={() => onPick(place, inner)}
                  >
                    read as an output
                  </button>
                )
              )}
            </span>
            {whole && <AnswerTree value={inner} pointer={place} read={read} onPick={onPick} />}
          </li>
        );
      })}
      {rows.length > MOST && <li className="text-xs text-ink-2">… and {rows.length - MOST} more</li>}
    </ul>
  );
}

const shown = (value: unknown) => {
  const text = typeof value === "string" ? value : JSON.stringify(value);
  return text.length > 300 ? `${text.slice(0, 300)}…` : text;
};
