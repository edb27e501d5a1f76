import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { useDesk, useNames } from "../../api/hooks";
import type { WorkItem } from "../../api/types";
import { useKeys } from "../../ui/keys";
import { Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { late } from "../../ui/late";
import { clock, day, exact, left, moment, sameDay, shortDay } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { KeptNotice, useKept } from "../actions/Kept";
import { designs, useSession } from "../signin/session";
import { HeldNotice, useHeldStarts } from "../starts/HeldStarts";
import { Views } from "../tickets/Views";
import { Chosen } from "./Chosen";
import { DeskFilters } from "./DeskFilters";
import { FurtherList } from "./FurtherList";
import { asFilter, asQuery, type DeskFilter, isPlain, type Row, shows } from "./filter";
import { useKeptRow } from "./kept";

const KeysDialog = late(() => import("../../ui/KeysDialog").then((m) => m.KeysDialog));
const NoteDialog = late(() => import("../ticket/NoteDialog").then((m) => m.NoteDialog));

const HOUR = 3_600_000;

function groupOf(row: Row, now: number): string {
  return row.overseen ? OVERSEEN : whenOf(row, now);
}

function whenOf(row: Row, now: number): string {
  if (row.held) return "On hold";
  if (!row.due) return "No time set";
  const rest = new Date(row.due).getTime() - now;
  if (rest < 0) return "Late";
  if (rest < HOUR) return "Within the hour";
  return sameDay(row.due, new Date(now).toISOString()) ? "Today" : "Later";
}

const KEYS: [string, string][] = [
  ["j k or ↑ ↓", "move through the list"],
  ["1–9", "press a button of what is chosen"],
  ["c", "claim the task"],
  ["p", "pass it on"],
  ["n", "add a note to its ticket"],
  ["o", "open its ticket"],
  ["/", "filter the list"],
  ["Ctrl K", "find anything"],
];

const TABS = ["Needs me", "Waiting for others", "Done by me"] as const;

/** Tickets that one has: nothing on them need be asked just now. */
const YOURS = "Tickets you have";

/** What is offered to others, and this person only oversees: they may step in, but are not waited for. */
const OVERSEEN = "You oversee, others are asked";

const ORDER = ["Stalled", "Late", "Within the hour", "Today", "Later", "No time set", "On hold", OVERSEEN, YOURS];

/** What needs me: late first, then by what is due. */
export function DeskPage() {
  const desk = useDesk();
  const now = useNow();
  const { session } = useSession();
  const names = useNames();
  const held = useHeldStarts(designs(session)) ?? [];
  const toRenew = useKept(designs(session));
  const navigate = useNavigate();
  const search = useSearch({ from: "/desk" });
  const item = search.item;
  const filter = asFilter({ ...search });
  const [dialog, setDialog] = useState<"note" | "keys">();
  const [tab, setTab] = useState<(typeof TABS)[number]>("Needs me");

  const rows = (desk.data?.items ?? []).map(
    (w: WorkItem): Row => ({
      id: w.visit,
      ticket: w.ticket,
      kind: w.kind,
      title: w.name,
      due: w.due,
      held: w.held,
      overseen: w.overseen,
      priority: w.priority,
      mine: desk.data?.own.includes(w.visit) ?? false,
      sub: [
        w.kind,
        w.ticket,
        w.ticketTitle,
        w.claimedBy === session.id ? "you claimed it" : w.claimedBy ? "claimed" : "",
      ]
        .filter(Boolean)
        .join(" · "),
    }),
  );
  const covered = (desk.data?.covered ?? [])
    .filter((c) => !rows.some((r) => r.id === c.item.visit))
    .map(
      (c): Row => ({
        id: c.item.visit,
        ticket: c.item.ticket,
        kind: c.item.kind,
        title: c.item.name,
        due: c.item.due,
        overseen: c.item.overseen,
        priority: c.item.priority,
        mine: true,
        sub: `for ${names.person(c.person)} · ${c.item.kind} · ${c.item.ticket} · ${c.item.ticketTitle}`,
      }),
    );
  const mine = [...rows, ...covered];
  const stalled = (desk.data?.stalled ?? []).map(
    (r): Row => ({
      id: r.id,
      ticket: r.ticket,
      kind: "stalled",
      title: r.name,
      sub: `stalled · ${r.ticket} · yours to set going again`,
      mine: true,
    }),
  );
  const given = (desk.data?.tickets ?? []).map(
    (t): Row => ({
      id: t.number,
      ticket: t.number,
      kind: "ticket",
      title: t.title,
      due: t.targetDue,
      priority: t.priority,
      mine: true,
      sub: `${t.kind} · ${t.number} · ${t.priority} · ${t.state}`,
    }),
  );
  const inGroup = (group: string) =>
    group === "Stalled" ? stalled : group === YOURS ? given : mine.filter((r) => groupOf(r, now) === group);
  const needs = mine.filter((r) => !r.overseen).length + stalled.length;
  const there = mine.length + stalled.length + given.length;
  const kept = useKeptRow(
    ORDER.flatMap((group) => inGroup(group).map((row) => ({ group, row }))),
    desk.isSuccess,
    item,
    (row) => shows(filter, row),
  );
  const groups = ORDER.map((name) => ({
    name,
    rows: kept.lines.filter((l) => l.group === name).map((l) => l.row),
  })).filter((g) => g.rows.length > 0);
  const all = groups.flatMap((g) => g.rows);
  const selected = kept.selected;
  const select = (row: Row | undefined, seen = true) => {
    if (!row) return;
    kept.choose(row.id, seen);
    navigate({ to: "/desk", search: { item: row.id, ...filter }, replace: true });
  };
  const setFilter = (next: DeskFilter) => navigate({ to: "/desk", search: { item, ...next }, replace: true });
  const step = (by: number) =>
    select(all[Math.min(all.length - 1, Math.max(0, all.findIndex((r) => r.id === selected?.id) + by))]);
  useKeys({
    j: () => step(1),
    k: () => step(-1),
    arrowdown: () => step(1),
    arrowup: () => step(-1),
    n: () => selected && setDialog("note"),
    "?": () => setDialog("keys"),
    "/": () => document.getElementById("desk-filter")?.querySelector("input")?.focus(),
    o: () => selected && navigate({ to: "/tickets/$number", params: { number: selected.ticket } }),
  });

  useEffect(() => {
    document.title = needs ? `(${needs}) Desk · Dastur` : "Desk · Dastur";
  }, [needs]);

  // What stands on its head is known before it is drawn: nothing there is pushed aside by it.
  if (desk.isPending || toRenew === undefined) return <Loading what="your desk" />;
  if (desk.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={desk.error} onRetry={() => desk.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead title={needs === 0 ? "Nothing needs you" : needs === 1 ? "1 needs you" : `${needs} need you`}>
        <KeptNotice kept={toRenew} />
        <HeldNotice held={held} />
        <span className="text-ink-2" title={exact(new Date(now).toISOString())}>
          {clock(new Date(now).toISOString())} · {day(new Date(now).toISOString())}
        </span>
      </PageHead>
      <div role="tablist" aria-label="Lists" className="flex shrink-0 gap-4 border-b border-hairline bg-raised px-5">
        {TABS.map((t) => (
          <button
            key={t}
            type="button"
            role="tab"
            aria-selected={tab === t}
            className={`py-1.5 ${tab === t ? "border-b-2 border-ink font-semibold" : "text-ink-2 hover:text-ink"}`}
            onClick={() => setTab(t)}
          >
            {t}
          </button>
        ))}
      </div>
      {tab !== "Needs me" ? (
        <FurtherList done={tab === "Done by me"} />
      ) : (
        <>
          {(desk.data.drafts ?? []).map((d) => (
            <p key={d.key} className="shrink-0 border-b border-hairline bg-raised px-5 py-2 text-sm">
              <span className="font-semibold text-soon">Not live yet:</span> your draft of{" "}
              <Link to="/workflows/$key" params={{ key: d.key }} className="link">
                {d.name}
              </Link>{" "}
              differs from what runs, since <span title={exact(d.savedAt)}>{moment(d.savedAt, now)}</span>. Publish it
              or throw it away.
            </p>
          ))}
          {there > 0 && (
            <DeskFilters filter={filter} shown={all.length} of={there} onChange={setFilter}>
              <Views
                place="desk"
                query={asQuery(filter)}
                onChoose={(q) => setFilter(asFilter(Object.fromEntries(new URLSearchParams(q))))}
              />
            </DeskFilters>
          )}
          {all.length === 0 && !isPlain(filter) && there > 0 ? (
            <Empty title="Nothing here fits">
              {there === 1 ? "One thing lies" : `${there} things lie`} on your desk that this filter leaves out.{" "}
              <button type="button" className="link" onClick={() => setFilter({})}>
                Show all
              </button>
            </Empty>
          ) : all.length === 0 ? (
            <Empty title="Your desk is clear">
              Tasks and approvals for you and your groups appear here by themselves, the most urgent first. Meanwhile,
              look at{" "}
              <Link to="/tickets" className="link">
                tickets
              </Link>
              .
            </Empty>
          ) : (
            <div className="flex min-h-0 flex-1 flex-col md:flex-row">
              <div
                className={`min-h-0 overflow-auto bg-sheet max-md:flex-1 md:w-[392px] md:shrink-0 md:border-r md:border-hairline ${item ? "max-md:hidden" : ""}`}
              >
                {groups.map((g) => (
                  <section key={g.name} aria-label={g.name}>
                    <h2 className="border-b border-hairline bg-raised px-4 py-1 text-xs text-ink-2">{g.name}</h2>
                    <ul>
                      {g.rows.map((row) => (
                        <li key={row.id}>
                          <button
                            type="button"
                            aria-current={row.id === selected?.id}
                            className={`flex w-full gap-3 border-b border-hairline px-3 py-2.5 text-left ${row.id === selected?.id ? (item ? "bg-selected" : "md:bg-selected") : "hover:bg-raised"}`}
                            onClick={() => select(row)}
                          >
                            <Time row={row} group={g.name === OVERSEEN ? whenOf(row, now) : g.name} now={now} />
                            <span className={`min-w-0 ${row.id === kept.gone ? "text-ink-2" : ""}`}>
                              <span className={`block font-semibold ${row.id === kept.gone ? "line-through" : ""}`}>
                                {row.title}
                              </span>
                              <span className="block truncate text-sm text-ink-2">{row.sub}</span>
                            </span>
                          </button>
                        </li>
                      ))}
                    </ul>
                  </section>
                ))}
              </div>
              {selected && (
                <Chosen
                  key={selected.id}
                  row={selected}
                  chosen={kept.chosen}
                  opened={item !== undefined}
                  onBack={() => {
                    kept.choose(undefined);
                    navigate({ to: "/desk", search: filter, replace: true });
                  }}
                  onRead={() => {
                    const rest = all.filter((r) => r.id !== selected.id);
                    const next = rest[Math.min(all.indexOf(selected), rest.length - 1)];
                    if (next) select(next, false);
                    else kept.choose(undefined);
                  }}
                />
              )}
            </div>
          )}
        </>
      )}
      <footer className="hidden shrink-0 border-t border-hairline bg-raised px-5 py-1.5 text-xs text-ink-2 md:block">
        <kbd className="font-mono">j k</kbd> move · <kbd className="font-mono">1–9</kbd> press a button ·{" "}
        <kbd className="font-mono">c</kbd> claim · <kbd className="font-mono">p</kbd> pass on ·{" "}
        <kbd className="font-mono">n</kbd> note · <kbd className="font-mono">o</kbd> open the ticket ·{" "}
        <kbd className="font-mono">?</kbd> all keys
      </footer>
      {dialog === "note" && selected && <NoteDialog ticket={selected.ticket} onClose={() => setDialog(undefined)} />}
      {dialog === "keys" && <KeysDialog keys={KEYS} onClose={() => setDialog(undefined)} />}
    </>
  );
}

function Time({ row, group, now }: { row: Row; group: string; now: number }) {
  if (row.held) return <span className="w-[5.5rem] shrink-0 whitespace-nowrap text-right text-ink-2">on hold</span>;
  if (!row.due) return <span className="w-[5.5rem] shrink-0 whitespace-nowrap text-right text-ink-2">—</span>;
  const tone = group === "Late" ? "text-late" : group === "Within the hour" ? "text-soon" : "";
  const soon = group === "Late" || group === "Within the hour";
  return (
    <span className="w-[5.5rem] shrink-0 whitespace-nowrap text-right" title={exact(row.due)}>
      <span className={`block font-semibold ${tone}`}>
        {soon ? left(row.due, now) : group === "Today" ? clock(row.due) : shortDay(row.due)}
      </span>
      {group !== "Today" && <span className="block text-xs text-ink-2">{clock(row.due)}</span>}
    </span>
  );
}
