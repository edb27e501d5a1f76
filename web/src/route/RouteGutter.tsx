import { memo } from "react";
import type { Step } from "../api/types";
import { Glyph } from "./Glyph";
import type { RouteBracket, RouteLayout, RouteWay } from "./layout";

export interface GutterSizes {
  rowHeight: number;
  /** Distance between columns. */
  column: number;
  /** Width of the space on the left for ways back, per track. */
  back: number;
  left: number;
}

export const FULL: GutterSizes = { rowHeight: 56, column: 34, back: 14, left: 30 };
/** One line a step: a long procedure seen whole. */
export const DENSE: GutterSizes = { rowHeight: 28, column: 20, back: 9, left: 16 };
export const SMALL: GutterSizes = { rowHeight: 27, column: 18, back: 8, left: 12 };

/** Room left of the words, beyond which columns move closer together, as far as their marks allow. */
const MOST_COLUMNS = 170;

/** The sizes of a route: many lanes side by side stand closer, so that the words keep their room. */
export const sizesOf = (layout: RouteLayout, dense: boolean): GutterSizes =>
  dense ? DENSE : { ...FULL, column: Math.max(25, Math.min(FULL.column, Math.floor(MOST_COLUMNS / layout.columns))) };

export const gutterWidth = (layout: RouteLayout, s: GutterSizes) =>
  s.left + layout.backTracks * s.back + (layout.columns - 1) * s.column + s.left;

/** How far a step has come in a run: passed, open now, or not reached yet. */
export type Progress = "passed" | "here" | "ahead" | undefined;

interface Props {
  layout: RouteLayout;
  kinds: Map<string, Step["kind"]>;
  sizes: GutterSizes;
  selected?: string;
  progress?: (id: string) => Progress;
  /** Ways taken in a run, as "from exit"; the others are drawn faint. */
  taken?: Set<string>;
}

/** Draws the lines and marks of a route beside its rows. Only a picture: the rows say everything in words. */
export function RouteGutter({ layout, kinds, sizes, selected, progress, taken }: Props) {
  const x = (column: number) => sizes.left + layout.backTracks * sizes.back + column * sizes.column;
  const y = (row: number) => row * sizes.rowHeight + sizes.rowHeight / 2;
  const rows = new Map(layout.rows.map((r) => [r.id, r]));
  const small = sizes.rowHeight < 40;
  const color = (id: string) => {
    const row = rows.get(id);
    if (progress) return progress(id) === "ahead" ? "var(--hairline)" : "var(--pine)";
    return row?.main ? "var(--pine)" : row?.reached ? "var(--detour)" : "var(--late)";
  };
  const drawn = [...layout.ways].sort((a, b) => Number(a.kind === "main") - Number(b.kind === "main"));
  return (
    <svg
      aria-hidden="true"
      className="absolute top-0 left-0 pointer-events-none"
      width={gutterWidth(layout, sizes)}
      height={layout.rows.length * sizes.rowHeight}
    >
      {drawn.map((way) => (
        <Way
          key={`${way.from} ${way.exit}`}
          d={line(way)}
          kind={way.kind}
          small={small}
          stroke={
            taken
              ? taken.has(`${way.from} ${way.exit}`)
                ? "var(--pine)"
                : "var(--hairline)"
              : way.kind === "main"
                ? "var(--pine)"
                : "var(--detour)"
          }
        />
      ))}
      {layout.brackets.map((b) => (
        <Bracket key={b.id} bracket={b} x={x} y={y} rowHeight={sizes.rowHeight} thin={small} />
      ))}
      {layout.rows
        .filter((row) => row.lane === undefined)
        .map((row) => (
          <Mark
            key={row.id}
            x={x(row.column)}
            y={y(row.row)}
            color={color(row.id)}
            kind={kinds.get(row.id) ?? "task"}
            selected={row.id === selected}
            small={small}
            state={progress?.(row.id)}
          />
        ))}
    </svg>
  );

  function line(way: RouteWay): string {
    const from = rows.get(way.from);
    const to = rows.get(way.to);
    if (!from || !to) return "";
    const [x1, y1, x2, y2] = [x(from.column), y(from.row), x(to.column), y(to.row)];
    if (way.kind === "back") {
      const lane = sizes.left / 2 + (layout.backTracks - 1 - way.track) * sizes.back;
      const bend = sizes.rowHeight * 0.45;
      const low = way.from === way.to ? y1 + bend : y1;
      return `M${x1 - 12} ${low} C${lane + 6} ${low} ${lane} ${low} ${lane} ${low - bend / 2} L${lane} ${y2 + bend / 2} C${lane} ${y2} ${lane + 6} ${y2} ${x2 - 14} ${y2} m-5 -4 l5 4 l-5 4`;
    }
    const lane = x(way.track);
    const bend = sizes.rowHeight * 0.62;
    const down =
      lane === x1
        ? `M${x1} ${y1}`
        : `M${x1} ${y1} C${x1} ${y1 + bend * 0.7} ${lane} ${y1 + bend * 0.3} ${lane} ${Math.min(y1 + bend, y2)}`;
    const into =
      lane === x2
        ? `L${x2} ${y2}`
        : `L${lane} ${Math.max(y2 - bend, y1)} C${lane} ${y2 - bend * 0.3} ${x2} ${y2 - bend * 0.7} ${x2} ${y2}`;
    return `${down} ${into}`;
  }
}

/** One way. Of a long route only those that run otherwise than before are drawn anew. */
const Way = memo(function Way({
  d,
  kind,
  stroke,
  small,
}: {
  d: string;
  kind: RouteWay["kind"];
  stroke: string;
  small: boolean;
}) {
  return (
    <path
      d={d}
      fill="none"
      stroke={stroke}
      strokeWidth={small ? 2 : kind === "main" ? 4 : kind === "back" ? 1.6 : 3}
      strokeDasharray={kind === "back" ? "1 4" : undefined}
      strokeLinecap="round"
    />
  );
});

/** The mark of one step. */
const Mark = memo(function Mark({
  x,
  y,
  color,
  kind,
  selected,
  small,
  state,
}: {
  x: number;
  y: number;
  color: string;
  kind: Step["kind"];
  selected: boolean;
  small: boolean;
  state: Progress;
}) {
  return (
    <g transform={`translate(${x} ${y})`} style={{ color }}>
      {selected && <circle r="19" fill="var(--selected-edge)" opacity="0.6" />}
      {small ? (
        <SmallMark end={kind === "end"} state={state} />
      ) : (
        <Glyph kind={kind} fill={selected ? "var(--selected)" : "var(--sheet)"} />
      )}
    </g>
  );
});

/** The lines inside a bracket: a rail down each line, opened below the bracket's mark and closed where all have ended. */
function Bracket({
  bracket,
  x,
  y,
  rowHeight,
  thin,
}: {
  bracket: RouteBracket;
  x: (column: number) => number;
  y: (row: number) => number;
  rowHeight: number;
  thin: boolean;
}) {
  const top = y(bracket.top) + rowHeight * 0.34;
  const bottom = y(bracket.bottom) + rowHeight * 0.44;
  const columns = bracket.lines.map((l) => l.column);
  if (columns.length === 0) return null;
  const right = x(Math.max(...columns));
  const home = x(bracket.column);
  const rails = bracket.lines.map((l) => `M${x(l.column)} ${top}V${bottom}`).join("");
  return (
    <path
      d={`M${home} ${top}H${right}${rails}M${home} ${bottom}H${right}M${home} ${y(bracket.top)}V${bottom}`}
      fill="none"
      stroke="var(--detour)"
      strokeWidth={thin ? 1 : 1.6}
      strokeLinejoin="round"
      opacity="0.75"
    />
  );
}

function SmallMark({ end, state }: { end: boolean; state: Progress }) {
  if (state === "here") {
    return (
      <>
        <circle r="10" fill="var(--selected-edge)" opacity="0.7" />
        <circle r="6" fill="var(--sheet)" stroke="var(--pine)" strokeWidth="3" />
      </>
    );
  }
  if (end) return <rect x="-7" y="-3" width="14" height="6" rx="1.5" fill="currentColor" />;
  return state === "passed" ? (
    <circle r="6.5" fill="currentColor" />
  ) : (
    <circle r="5.5" fill="var(--sheet)" stroke="currentColor" strokeWidth="2.5" />
  );
}
