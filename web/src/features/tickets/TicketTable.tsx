import { ArrowDown } from "@phosphor-icons/react/ArrowDown";
import { ArrowUp } from "@phosphor-icons/react/ArrowUp";
import { useNavigate } from "@tanstack/react-router";
import { columnVisibilityFeature, createColumnHelper, tableFeatures, useTable } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { Fragment, type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { useNames } from "../../api/hooks";
import type { TicketRow } from "../../api/types";
import { Check } from "../../ui/Check";
import { useKeys } from "../../ui/keys";

import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { NextClock } from "../ticket/Clocks";
import { COLUMNS, type ColumnKey, type GroupKey, groupOf, nextOrder, sortedBy } from "./columns";

const features = tableFeatures({ columnVisibilityFeature });
const helper = createColumnHelper<typeof features, TicketRow>();
const columns = helper.columns(COLUMNS.map((c) => helper.display({ id: c.key, header: c.label })));
const FACTS = new Map(COLUMNS.map((c) => [c.key as string, c]));

/** Fewer rows are simply drawn. */
const MANY = 100;
const ROW = 36;

/** The keys of the list, for those who look them up. */
export const LIST_KEYS: [string, string][] = [
  ["j / k", "the next, the one before"],
  ["o", "open it"],
  ["x", "choose it, or not"],
  ["/", "search"],
  ["n", "raise a ticket"],
];

/** Tickets in rows, in the order the server gave them; what is not seen is not drawn. */
export function TicketTable({
  rows,
  shown,
  order,
  onOrder,
  by,
  chosen,
  onChoose,
}: {
  rows: TicketRow[];
  shown: ColumnKey[];
  order: string;
  onOrder: (order: string) => void;
  by: GroupKey | undefined;
  /** Undefined for those who cannot do anything to several at once. */
  chosen: string[] | undefined;
  onChoose: (chosen: string[]) => void;
}) {
  const names = useNames();
  const now = useNow();
  const navigate = useNavigate();
  const frame = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState<string>();
  const columnVisibility = useMemo(
    () => Object.fromEntries(COLUMNS.map((c) => [c.key, shown.includes(c.key)])),
    [shown],
  );
  const table = useTable({ features, columns, data: rows, state: { columnVisibility }, getRowId: (t) => t.number });
  const lines = table.getRowModel().rows;
  const many = lines.length > MANY;
  const virtual = useVirtualizer({
    count: lines.length,
    enabled: many,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const drawn = virtual.getVirtualItems();
  const [first, last] = many ? [drawn[0]?.index ?? 0, (drawn.at(-1)?.index ?? -1) + 1] : [0, lines.length];

  const open = (number: string) => navigate({ to: "/tickets/$number", params: { number } });
  const toggle = (number: string) =>
    chosen && onChoose(chosen.includes(number) ? chosen.filter((n) => n !== number) : [...chosen, number]);
  const move = (step: number) => {
    const i = rows.findIndex((t) => t.number === at);
    const next = i < 0 ? 0 : Math.min(rows.length - 1, Math.max(0, i + step));
    setAt(rows[next]?.number);
    if (many) virtual.scrollToIndex(next);
  };
  useKeys({
    j: () => move(1),
    k: () => move(-1),
    o: () => at && open(at),
    x: () => at && toggle(at),
  });
  useEffect(() => {
    if (at) frame.current?.querySelector(`[data-ticket="${at}"]`)?.scrollIntoView({ block: "nearest" });
  }, [at]);

  const headOf = (t: TicketRow) => {
    if (!by) return "";
    const value = groupOf(by, t);
    if (by === "with")
      return value.startsWith("p:") ? names.person(t.assignee) : value ? names.group(t.group) : "nobody yet";
    return by === "service" ? names.service(t.service) || "no service" : value;
  };
  const cell = (key: ColumnKey, t: TicketRow): ReactNode => {
    switch (key) {
      case "number":
        return (
          <a
            className="link font-medium"
            href={`/tickets/${t.number}`}
            onClick={(e) => {
              if (e.metaKey || e.ctrlKey) return;
              e.preventDefault();
              open(t.number);
            }}
          >
            {t.number}
          </a>
        );
      case "priority":
        return (
          <span
            className={
              t.ended
                ? "text-ink-2"
                : t.priority === "P1"
                  ? "font-bold text-late"
                  : t.priority === "P2"
                    ? "font-semibold"
                    : "text-ink-2"
            }
          >
            {t.priority}
          </span>
        );
      case "title":
        return (
          <span className="flex gap-2">
            <span className="truncate font-medium">{t.title}</span>
            {t.folds > 0 && (
              <span
                className="shrink-0 rounded border border-hairline px-1 text-xs text-ink-2"
                title={`${t.folds} incidents follow from it and stand under it`}
              >
                +{t.folds} follow
              </span>
            )}
            {t.under && <span className="shrink-0 text-xs text-ink-2">follows from {t.under}</span>}
          </span>
        );
      case "with":
        return t.assignee ? names.person(t.assignee) : names.group(t.group) || "—";
      case "requester":
        return names.person(t.requester) || "—";
      case "service":
        return names.service(t.service) || "—";
      case "ci":
        return <span className="font-mono text-xs">{t.ci ?? "—"}</span>;
      case "clock":
        return <NextClock target={t.ended ? undefined : t.target} due={t.targetDue} now={now} />;
      case "raised":
        return <Moment at={t.createdAt} now={now} />;
      case "changed":
        return <Moment at={t.updatedAt} now={now} />;
      default:
        return t[key];
    }
  };
  const heads = table.getHeaderGroups()[0]?.headers ?? [];
  const wide = heads.length + (chosen ? 1 : 0);
  return (
    <div ref={frame} className="min-h-0 flex-1 overflow-auto">
      <table className="w-full table-fixed text-left" aria-rowcount={rows.length}>
        <thead className="sticky top-0 z-10 bg-raised text-xs text-ink-2">
          <tr className="border-b border-hairline">
            {chosen && (
              <th className="w-10 pl-5">
                <Check
                  label="Choose all that are listed"
                  hideLabel
                  checked={rows.length > 0 && rows.every((t) => chosen.includes(t.number))}
                  onChange={(all) => onChoose(all ? rows.slice(0, 100).map((t) => t.number) : [])}
                />
              </th>
            )}
            {heads.map((h) => (
              <Head key={h.id} of={h.id as ColumnKey} order={order} onOrder={onOrder} />
            ))}
          </tr>
        </thead>
        <tbody>
          {many && first > 0 && <Gap height={first * ROW} wide={wide} />}
          {lines.slice(first, last).map(({ original: t, index }) => {
            const before = rows[index - 1];
            return (
              <Fragment key={t.number}>
                {by && (!before || groupOf(by, before) !== groupOf(by, t)) && (
                  <tr className="border-b border-hairline bg-raised">
                    <th colSpan={wide} scope="rowgroup" className="px-5 pt-3 pb-1 text-sm font-bold">
                      {headOf(t)}
                    </th>
                  </tr>
                )}
                <tr
                  data-ticket={t.number}
                  aria-current={t.number === at || undefined}
                  className={`h-9 cursor-pointer border-b border-hairline hover:bg-selected ${t.number === at ? "bg-selected outline-2 -outline-offset-2 outline-pine" : ""}`}
                  onClick={() => open(t.number)}
                >
                  {chosen && (
                    // biome-ignore lint/a11y/useKeyWithClickEvents: only keeps a click beside the box from opening the ticket
                    <td className="pl-5" onClick={(e) => e.stopPropagation()}>
                      <Check
                        label={`Choose ${t.number}`}
                        hideLabel
                        checked={chosen.includes(t.number)}
                        onChange={() => toggle(t.number)}
                      />
                    </td>
                  )}
                  {heads.map((h) => (
                    <td
                      key={h.id}
                      className={`truncate pr-3 first:pl-5 ${narrow(h.id as ColumnKey)}`}
                      title={h.id === "title" ? t.title : undefined}
                    >
                      {cell(h.id as ColumnKey, t)}
                    </td>
                  ))}
                </tr>
              </Fragment>
            );
          })}
          {many && last < lines.length && <Gap height={(lines.length - last) * ROW} wide={wide} />}
        </tbody>
      </table>
    </div>
  );
}

/** On a phone only what a row cannot do without. */
const narrow = (key: ColumnKey) => (["number", "priority", "title"].includes(key) ? "" : "hidden md:table-cell");

function Moment({ at, now }: { at: string; now: number }) {
  return (
    <span className="whitespace-nowrap text-ink-2" title={exact(at)}>
      {moment(at, now)}
    </span>
  );
}

/** In place of rows that are not drawn. */
function Gap({ height, wide }: { height: number; wide: number }) {
  return (
    <tr>
      <td colSpan={wide} style={{ height }} />
    </tr>
  );
}

function Head({ of, order, onOrder }: { of: ColumnKey; order: string; onOrder: (order: string) => void }) {
  const facts = FACTS.get(of);
  const next = nextOrder(of, order);
  const sorted = sortedBy(of, order);
  return (
    <th
      aria-sort={sorted ?? (next ? "none" : undefined)}
      className={`py-1.5 pr-3 font-medium first:pl-5 ${of === "title" ? "" : facts?.width} ${narrow(of)}`}
    >
      {next ? (
        <button
          type="button"
          className={`flex items-center gap-1 ${sorted ? "font-bold text-ink" : "hover:text-ink"}`}
          onClick={() => onOrder(next)}
        >
          {facts?.label}
          {sorted && (sorted === "descending" ? <ArrowDown aria-hidden="true" /> : <ArrowUp aria-hidden="true" />)}
        </button>
      ) : (
        facts?.label
      )}
    </th>
  );
}
