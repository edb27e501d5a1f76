import { useCatalogue, useNames } from "../../api/hooks";
import type { Finding, Step, Version } from "../../api/types";
import { layoutRoute } from "../../route/layout";
import { allSteps, exitsOf, expectedOf, linesOf, optionalExitsOf, routeSteps, waysOf } from "../../route/ofVersion";
import { DENSE, FULL, gutterWidth, type Progress, RouteGutter } from "../../route/RouteGutter";
import { describe } from "./describe";

interface Props {
  version: Version;
  findings: Finding[];
  selected?: string;
  onSelect: (id: string) => void;
  /** Brackets whose inside is not shown. */
  folded: Set<string>;
  onFold: (id: string) => void;
  /** One line a step. */
  dense?: boolean;
  /** How far a rehearsal has come, drawn on the route. */
  progress?: (id: string) => Progress;
  /** Marks of a comparison with another version, by step. */
  marks?: Map<string, string>;
  /** Where the composer stands: below this step. */
  composing?: { after: string | undefined; node: React.ReactNode };
}

/** The route as a page read from top to bottom: one row a step. */
export function RouteView({
  version,
  findings,
  selected,
  onSelect,
  folded,
  onFold,
  dense,
  marks,
  progress,
  composing,
}: Props) {
  const sizes = dense ? DENSE : FULL;
  const names = useNames();
  const catalogue = useCatalogue();
  const actions = catalogue.data?.actions ?? [];
  const layout = layoutRoute(routeSteps(version, actions, folded));
  const steps = new Map(allSteps(version.body.steps).map((s) => [s.id, s]));
  const kinds = new Map(allSteps(version.body.steps).map((s) => [s.id, s.kind]));
  const rowOf = new Map(layout.rows.map((r) => [r.id, r.row]));
  const numberOf = new Map(layout.rows.map((r) => [r.id, r.number]));
  const ladderName = (key?: string) => catalogue.data?.ladders.find((l) => l.key === key)?.name;
  const cut = composing?.after ? (rowOf.get(composing.after) ?? layout.rows.length - 1) + 1 : layout.rows.length;

  const rows = layout.rows.map((row) => {
    const indent = gutterWidth(layout, sizes) - (layout.columns - 1 - row.edge) * sizes.column;
    if (row.lane !== undefined) {
      return (
        <li
          key={row.id}
          className="flex items-center border-b border-hairline text-sm font-semibold text-ink-2"
          style={{ height: sizes.rowHeight, paddingLeft: indent + 32 }}
        >
          {row.lane}
        </li>
      );
    }
    const step = steps.get(row.id);
    if (!step) return null;
    const lines = linesOf(step);
    const mark = marks?.get(row.id);
    const said = describe(step, names, actions, ladderName);
    const wrong = findings.filter((f) => f.step === row.id);
    return (
      <li key={row.id}>
        <button
          type="button"
          aria-current={row.id === selected}
          data-step={row.id}
          className={`grid w-full grid-cols-[minmax(120px,1fr)_auto] items-center gap-x-3 border-b border-hairline pr-5 text-left md:grid-cols-[minmax(150px,1fr)_auto_120px_100px] ${row.id === selected ? "bg-selected" : "hover:bg-raised"}`}
          style={{
            height: sizes.rowHeight,
            paddingLeft: indent,
          }}
          onClick={() => onSelect(row.id)}
        >
          <span className="flex min-w-0 items-baseline gap-3">
            <span className="w-5 shrink-0 text-right text-xs text-ink-2">{row.number}</span>
            <span className="min-w-0">
              <span className="block truncate font-semibold">
                {step.name}
                {lines.length > 0 && (
                  <span
                    role="button"
                    tabIndex={-1}
                    aria-label={folded.has(row.id) ? `Open ${step.name}` : `Fold ${step.name}`}
                    className="ml-2 rounded border border-hairline px-1.5 text-xs font-normal text-ink-2 hover:border-pine"
                    onClick={(e) => {
                      e.stopPropagation();
                      onFold(row.id);
                    }}
                    onKeyDown={() => {}}
                  >
                    {folded.has(row.id) ? `▸ ${lines.reduce((n, l) => n + allSteps(l.steps).length, 0)} steps` : "▾"}
                  </span>
                )}
                {mark && (
                  <span className="ml-2 text-xs font-semibold text-soon">
                    {mark === "moved" ? "leads elsewhere" : mark}
                  </span>
                )}
                {wrong.length > 0 && (
                  <span
                    className={`ml-2 text-xs font-semibold ${wrong.some((f) => f.severity === "blocks") ? "text-late" : "text-soon"}`}
                  >
                    ● {wrong.length === 1 ? "1 finding" : `${wrong.length} findings`}
                  </span>
                )}
              </span>
              {!dense && (
                <span className="block truncate text-sm text-ink-2">
                  {row.reached ? said.line : "no way leads here"}
                </span>
              )}
            </span>
          </span>
          <Exits step={step} next={layout.rows[row.row + 1]?.id} actions={actions} rowOf={numberOf} kinds={kinds} />
          <span className="hidden truncate text-right text-sm md:block">{said.who}</span>
          <span className="hidden truncate text-right text-sm text-ink-2 md:block">{said.when}</span>
        </button>
      </li>
    );
  });

  return (
    <div>
      <div className="relative overflow-hidden">
        <ol aria-label="Route">{composing ? rows.slice(0, cut) : rows}</ol>
        {!composing && (
          <RouteGutter layout={layout} kinds={kinds} sizes={sizes} selected={selected} progress={progress} />
        )}
        {composing && (
          <div
            className="pointer-events-none absolute inset-0 overflow-hidden"
            style={{ height: cut * sizes.rowHeight }}
          >
            <RouteGutter layout={layout} kinds={kinds} sizes={sizes} selected={selected} progress={progress} />
          </div>
        )}
      </div>
      {composing?.node}
      {composing && cut < rows.length && (
        <div className="relative overflow-hidden">
          <ol>{rows.slice(cut)}</ol>
          <div className="pointer-events-none absolute left-0 w-full" style={{ top: -cut * sizes.rowHeight }}>
            <RouteGutter layout={layout} kinds={kinds} sizes={sizes} selected={selected} progress={progress} />
          </div>
        </div>
      )}
    </div>
  );
}

/** The exits that the line itself does not say: detours, open ends, ways back. */
function Exits({
  step,
  next,
  actions,
  rowOf,
  kinds,
}: {
  step: Step;
  next?: string;
  actions: Parameters<typeof exitsOf>[1];
  rowOf: Map<string, number>;
  kinds: Map<string, Step["kind"]>;
}) {
  const ways = waysOf(step);
  const expected = expectedOf(step, actions);
  const here = rowOf.get(step.id) ?? 0;
  const shown = [...exitsOf(step, actions), ...optionalExitsOf(step).filter((e) => ways[e])].filter(
    (e) => !(e === expected && ways[e] === next),
  );
  return (
    <span
      className={`flex flex-wrap justify-end gap-1 ${shown.length > 2 ? "max-w-[300px] !gap-0.5 [&>span]:text-[11px] [&>span]:leading-[15px]" : "max-w-[260px]"}`}
    >
      {shown.map((exit) => {
        const to = ways[exit];
        const row = to === undefined ? undefined : rowOf.get(to);
        const only = exit === expected && exitsOf(step, actions).length === 1;
        const label = only ? "" : exit;
        if (row === undefined) {
          return (
            <span
              key={exit}
              className="max-w-full truncate rounded border border-late bg-sheet px-1.5 text-xs text-late"
            >
              {exit} → ?
            </span>
          );
        }
        const arrow = row <= here ? "↩" : to && kinds.get(to) === "end" ? "▬" : exit === expected ? "→" : "↘";
        return (
          <span key={exit} className="max-w-full truncate rounded border border-hairline bg-sheet px-1.5 text-xs">
            {label}{" "}
            <span className="text-ink-2">
              {arrow} {row}
            </span>
          </span>
        );
      })}
    </span>
  );
}
