import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { Ci } from "../../api/types";
import { Button } from "../../ui/kit";
import { around, type Line, MOST } from "./around";

const ROW = 52;
const CARD = 44;
const WIDE = 190;
const GAP = 76;

const HEADS: Record<number, string> = {
  [-2]: "rest on those",
  [-1]: "rest on it",
  1: "it rests on",
  2: "those rest on",
};

/** What stands around a CI, two steps to either side: who rests on it on the left, what it rests on on the right (M17). */
export function Neighbours({ page }: { page: Ci }) {
  const [all, setAll] = useState(false);
  const { columns, lines } = around(page, all ? Number.POSITIVE_INFINITY : MOST);
  if (columns.length === 1) return <p className="text-ink-2">None are known.</p>;
  const rows = Math.max(...columns.map((c) => c.shown.length + (c.more > 0 ? 1 : 0)));
  const height = rows * ROW + 28;
  const places = new Map<string, { x: number; y: number }>();
  columns.forEach((column, i) => {
    const top = 28 + ((rows - column.shown.length - (column.more > 0 ? 1 : 0)) * ROW) / 2;
    column.shown.forEach((near, j) => {
      places.set(near.id, { x: i * (WIDE + GAP), y: top + j * ROW });
    });
  });
  const width = columns.length * (WIDE + GAP) - GAP;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by keys
    <section className="overflow-x-auto" aria-label="Neighbours, drawn" tabIndex={0}>
      <div className="relative" style={{ width, height }}>
        <svg aria-hidden="true" className="absolute inset-0 text-ink-2" width={width} height={height}>
          {lines.map((line) => (
            <Drawn key={`${line.from} ${line.relation} ${line.to}`} line={line} places={places} />
          ))}
        </svg>
        {columns.map((column, i) => (
          <ul key={column.level} aria-label={HEADS[column.level] ?? "This one"}>
            <li
              aria-hidden="true"
              className="absolute top-0 text-xs text-ink-2"
              style={{ left: i * (WIDE + GAP), width: WIDE }}
            >
              {HEADS[column.level] ?? "this one"}
            </li>
            {column.shown.map((near) => {
              const at = places.get(near.id);
              const words = relationWords(lines, near.id);
              const inner = (
                <>
                  <span className="block truncate font-semibold">{near.name}</span>
                  <span
                    className={`block truncate text-xs ${near.open > 0 ? "font-semibold text-late" : "text-ink-2"}`}
                  >
                    {near.open > 0 ? `${near.open} open` : [near.id, near.relation].filter(Boolean).join(" · ")}
                  </span>
                </>
              );
              const box = "absolute block rounded-lg border px-2 py-0.5 leading-tight";
              return (
                <li key={near.id}>
                  {column.level === 0 ? (
                    <span
                      className={`${box} border-2 border-ink`}
                      style={{ left: at?.x, top: at?.y, width: WIDE, height: CARD }}
                    >
                      {inner}
                    </span>
                  ) : (
                    <Link
                      to="/cis/$id"
                      params={{ id: near.id }}
                      title={words}
                      className={`${box} border-hairline bg-paper hover:border-ink`}
                      style={{ left: at?.x, top: at?.y, width: WIDE, height: CARD }}
                    >
                      {inner}
                    </Link>
                  )}
                </li>
              );
            })}
            {column.more > 0 && (
              <li
                className="absolute"
                style={{
                  left: i * (WIDE + GAP),
                  top: (places.get(column.shown.at(-1)?.id ?? "")?.y ?? 0) + ROW,
                  width: WIDE,
                }}
              >
                <Button look="quiet" onClick={() => setAll(true)}>
                  and {column.more} more
                </Button>
              </li>
            )}
          </ul>
        ))}
      </div>
    </section>
  );
}

/** Its relations as words, for whoever points at it. */
function relationWords(lines: Line[], id: string): string {
  return lines
    .filter((l) => l.from === id || l.to === id)
    .map((l) => `${l.from} ${l.relation} ${l.to}`)
    .join("\n");
}

function Drawn({ line, places }: { line: Line; places: Map<string, { x: number; y: number }> }) {
  const from = places.get(line.from);
  const to = places.get(line.to);
  if (!from || !to || from.x === to.x) return null;
  const [left, right] = from.x < to.x ? [from, to] : [to, from];
  const x1 = left.x + WIDE;
  const y1 = left.y + CARD / 2;
  const x2 = right.x;
  const y2 = right.y + CARD / 2;
  const middle = (x1 + x2) / 2;
  return (
    <path
      d={`M${x1} ${y1} C${middle} ${y1} ${middle} ${y2} ${x2} ${y2}`}
      fill="none"
      stroke="currentColor"
      strokeOpacity="0.5"
    />
  );
}
