import { memo, useMemo } from "react";
import { useCatalogue, useNames } from "../../api/hooks";
import type { Finding, Step, Version } from "../../api/types";
import { layoutRoute } from "../../route/layout";
import { allSteps, exitsOf, expectedOf, linesOf, optionalExitsOf, routeSteps, waysOf } from "../../route/ofVersion";
import { gutterWidth, type Progress, RouteGutter, sizesOf } from "../../route/RouteGutter";
import { describe } from "./describe";
import { knownPaths, pathWords } from "./paths";

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
  /** Ways that are drawn, as "step exit"; the others are faint. */
  taken?: Set<string>;
  /** Marks of a comparison with another version, by step. */
  marks?: Map<string, string>;
  /** What stands below rows: below its step, or below all. */
  slots?: { after: string | undefined; node: React.ReactNode }[];
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
  taken,
  slots = [],
}: Props) {
  const names = useNames();
  const catalogue = useCatalogue();
  const actions = catalogue.data?.actions ?? [];
  const layout = layoutRoute(routeSteps(version, actions, folded));
  const sizes = sizesOf(layout, dense ?? false);
  const steps = new Map(allSteps(version.body.steps).map((s) => [s.id, s]));
  const kinds = new Map(allSteps(version.body.steps).map((s) => [s.id, s.kind]));
  const rowOf = new Map(layout.rows.map((r) => [r.id, r.row]));
  const numberOf = new Map(layout.rows.map((r) => [r.id, r.number]));
  const called = calledIn(version);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what paths are called changes with the names in it alone
  const pathSays = useMemo(() => pathWords(knownPaths(version, catalogue.data)), [called, catalogue.data]);
  const ladderName = (key?: string) => catalogue.data?.ladders.find((l) => l.key === key)?.name;
  const cuts = slots
    .map((s) => ({
      ...s,
      row: s.after === undefined ? layout.rows.length : (rowOf.get(s.after) ?? layout.rows.length - 1) + 1,
    }))
    .sort((a, b) => a.row - b.row);

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
    const wrong = findings.filter((f) => f.step === row.id);
    return (
      <StepRow
        key={row.id}
        step={step}
        number={row.number}
        indent={indent}
        height={sizes.rowHeight}
        reached={row.reached}
        chosen={row.id === selected}
        folded={folded.has(row.id)}
        dense={dense ?? false}
        mark={marks?.get(row.id)}
        findings={wrong.length}
        blocks={wrong.some((f) => f.severity === "blocks")}
        exits={exitChips(step, layout.rows[row.row + 1]?.id, actions, numberOf, kinds)}
        said={said(step, names, actions, ladderName, pathSays)}
        onSelect={onSelect}
        onFold={onFold}
      />
    );
  });

  // The line goes on behind what stands between rows: each part shows its own stretch of it.
  const parts = [...cuts, undefined].map((cut, i) => {
    const from = cuts[i - 1]?.row ?? 0;
    return { from, to: cut?.row ?? rows.length, cut };
  });
  return (
    <div>
      {parts.map(({ from, to, cut }, i) => (
        <div key={cut ? `${cut.after}` : "rest"}>
          {to > from && (
            <div className="relative overflow-hidden">
              <ol aria-label={i === 0 ? "Route" : "Route, going on"}>{rows.slice(from, to)}</ol>
              <div className="pointer-events-none absolute left-0 w-full" style={{ top: -from * sizes.rowHeight }}>
                <RouteGutter
                  layout={layout}
                  kinds={kinds}
                  sizes={sizes}
                  selected={selected}
                  progress={progress}
                  taken={taken}
                />
              </div>
            </div>
          )}
          {cut?.node}
        </div>
      ))}
    </div>
  );
}

interface Said {
  line: string;
  who: string;
  when: string;
}

/** What a row says changes with its step, and with the names of others: it is said anew only then. */
const sayings = new WeakMap<Step, { directory: unknown; pathSays: unknown; said: Said }>();

function said(
  step: Step,
  names: ReturnType<typeof useNames>,
  actions: Parameters<typeof describe>[2],
  ladderName: (key?: string) => string | undefined,
  pathSays: (path: string) => string,
): Said {
  const known = sayings.get(step);
  if (known && known.directory === names.directory && known.pathSays === pathSays) return known.said;
  const made = describe(step, names, actions, ladderName, pathSays);
  sayings.set(step, { directory: names.directory, pathSays, said: made });
  return made;
}

/** All names in a version that paths are called by: an edit that changes none of them lets every row stand. */
const calledIn = (version: Version) =>
  [
    ...[...version.startForm, ...version.vars].map((f) => `${f.name} ${f.label}`),
    ...allSteps(version.body.steps).map(
      (s) =>
        `${s.id} ${s.name} ${"action" in s ? s.action : ""} ${s.kind === "task" ? s.form?.map((f) => `${f.name} ${f.label}`) : ""}`,
    ),
  ].join("\n");

interface Chip {
  exit: string;
  label: string;
  /** Where it leads, as "↘ 7"; absent where it leads nowhere. */
  to?: string;
}

interface RowProps {
  step: Step;
  number: number;
  indent: number;
  height: number;
  reached: boolean;
  chosen: boolean;
  folded: boolean;
  dense: boolean;
  mark?: string;
  findings: number;
  blocks: boolean;
  exits: Chip[];
  said: Said;
  onSelect: (id: string) => void;
  onFold: (id: string) => void;
}

/** Of a long route only the rows that say something else are drawn anew: an edit touches one or two. */
const StepRow = memo(
  function StepRow({ step, number, indent, height, reached, chosen, folded, dense, mark, ...rest }: RowProps) {
    const lines = linesOf(step);
    return (
      // A row that is not seen is neither laid out nor painted; its height is known.
      <li style={{ contentVisibility: "auto", containIntrinsicHeight: height }}>
        <button
          type="button"
          aria-current={chosen}
          data-step={step.id}
          className={`grid w-full grid-cols-[minmax(120px,1fr)_auto] items-center gap-x-3 border-b border-hairline pr-5 text-left md:grid-cols-[minmax(150px,1fr)_auto_120px_100px] ${chosen ? "bg-selected" : "hover:bg-raised"}`}
          style={{ height, paddingLeft: indent }}
          onClick={() => rest.onSelect(step.id)}
        >
          <span className="flex min-w-0 items-baseline gap-3">
            <span className="w-5 shrink-0 text-right text-xs text-ink-2">{number}</span>
            <span className="min-w-0">
              <span className="block truncate font-semibold">
                {step.name}
                {lines.length > 0 && (
                  <span
                    role="button"
                    tabIndex={-1}
                    aria-label={folded ? `Open ${step.name}` : `Fold ${step.name}`}
                    className="ml-2 rounded border border-hairline px-1.5 text-xs font-normal text-ink-2 hover:border-pine"
                    onClick={(e) => {
                      e.stopPropagation();
                      rest.onFold(step.id);
                    }}
                    onKeyDown={() => {}}
                  >
                    {folded ? `▸ ${lines.reduce((n, l) => n + allSteps(l.steps).length, 0)} steps` : "▾"}
                  </span>
                )}
                {mark && (
                  <span className="ml-2 text-xs font-semibold text-soon">
                    {mark === "moved" ? "leads elsewhere" : mark}
                  </span>
                )}
                {rest.findings > 0 && (
                  <span className={`ml-2 text-xs font-semibold ${rest.blocks ? "text-late" : "text-soon"}`}>
                    ● {rest.findings === 1 ? "1 finding" : `${rest.findings} findings`}
                  </span>
                )}
              </span>
              {!dense && (
                <span className="block truncate text-sm text-ink-2" title={rest.said.line}>
                  {reached ? rest.said.line : "no way leads here"}
                </span>
              )}
            </span>
          </span>
          <Exits chips={rest.exits} />
          <span className="hidden text-right text-sm leading-tight md:line-clamp-2">{rest.said.who}</span>
          <span className="hidden text-right text-sm leading-tight text-ink-2 md:line-clamp-2">{rest.said.when}</span>
        </button>
      </li>
    );
  },
  (a, b) =>
    (Object.keys(a) as (keyof RowProps)[]).every((k) =>
      // These are made anew each time; what they say counts. The handlers do the same whichever copy is kept.
      k === "exits"
        ? sameChips(a.exits, b.exits)
        : k === "said"
          ? a.said.line === b.said.line && a.said.who === b.said.who && a.said.when === b.said.when
          : k === "onSelect" || k === "onFold" || a[k] === b[k],
    ),
);

const sameChips = (a: Chip[], b: Chip[]) =>
  a.length === b.length && a.every((c, i) => c.exit === b[i]?.exit && c.label === b[i]?.label && c.to === b[i]?.to);

/** The exits that the line itself does not say: detours, open ends, ways back. */
function exitChips(
  step: Step,
  next: string | undefined,
  actions: Parameters<typeof exitsOf>[1],
  rowOf: Map<string, number>,
  kinds: Map<string, Step["kind"]>,
): Chip[] {
  const ways = waysOf(step);
  const expected = expectedOf(step, actions);
  const here = rowOf.get(step.id) ?? 0;
  const must = exitsOf(step, actions);
  return [...must, ...optionalExitsOf(step).filter((e) => ways[e])]
    .filter((e) => !(e === expected && ways[e] === next))
    .map((exit) => {
      const to = ways[exit];
      const row = to === undefined ? undefined : rowOf.get(to);
      const label = exit === expected && must.length === 1 ? "" : exit;
      if (row === undefined) return { exit, label };
      const arrow = row <= here ? "↩" : to && kinds.get(to) === "end" ? "▬" : exit === expected ? "→" : "↘";
      return { exit, label, to: `${arrow} ${row}` };
    });
}

function Exits({ chips }: { chips: Chip[] }) {
  return (
    <span
      className={`flex flex-wrap justify-end gap-1 ${chips.length > 2 ? "max-w-[300px] !gap-0.5 [&>span]:text-[11px] [&>span]:leading-[15px]" : "max-w-[260px]"}`}
    >
      {chips.map(({ exit, label, to }) =>
        to === undefined ? (
          <span key={exit} className="max-w-full truncate rounded border border-late bg-sheet px-1.5 text-xs text-late">
            {exit} → ?
          </span>
        ) : (
          <span key={exit} className="max-w-full truncate rounded border border-hairline bg-sheet px-1.5 text-xs">
            {label} <span className="text-ink-2">{to}</span>
          </span>
        ),
      )}
    </span>
  );
}
