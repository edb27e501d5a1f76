import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { Popover } from "radix-ui";
import { useDeferredValue, useMemo, useRef, useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { TicketRow } from "../../api/types";
import { Check } from "../../ui/Check";
import { KeysDialog } from "../../ui/KeysDialog";
import { useKeys } from "../../ui/keys";
import { Button, Empty, Input, Loading, PageHead, Select, Trouble } from "../../ui/kit";
import { raises, seesAll, useSession } from "../signin/session";
import { BulkBar } from "./BulkBar";
import {
  asked,
  COLUMNS,
  type ColumnKey,
  chosenColumns,
  GROUPS,
  type GroupKey,
  keepColumns,
  usualOrder,
} from "./columns";
import { Facets } from "./Facets";
import { RaiseDialog } from "./RaiseDialog";
import { LIST_KEYS, TicketTable } from "./TicketTable";
import { Views } from "./Views";

/** Find tickets; raise one. */
export function TicketsPage() {
  const { session } = useSession();
  const navigate = useNavigate();
  const [raising, setRaising] = useState(false);
  const { q, raise } = useSearch({ from: "/tickets" });
  const [filter, setFilterOnly] = useState(() => new URLSearchParams(q ?? "open=true"));
  // The address holds the search, so that going back from a ticket, or sending it to somebody, brings it again.
  const setFilter = (next: URLSearchParams) => {
    next.sort();
    setFilterOnly(next);
    navigate({ to: "/tickets", search: { q: next.toString() }, replace: true });
  };
  const set = (field: string, value: string) => {
    const next = new URLSearchParams(filter);
    if (value) next.set(field, value);
    else next.delete(field);
    setFilter(next);
  };
  const text = filter.get("text") ?? "";
  const narrowed = [...filter.keys()].some((k) => !["open", "by", "order"].includes(k));
  const open = filter.get("open") ?? "";
  const query = useDeferredValue(asked(filter).toString());
  const by = groupBy(filter.get("by"));
  const order = asked(filter).get("order") ?? usualOrder(filter);
  const search = useRef<HTMLDivElement>(null);
  useKeys({
    n: () => raises(session) && setRaising(true),
    "/": () => search.current?.querySelector("input")?.focus(),
    "?": () => setKeys(true),
  });

  const tickets = useInfiniteQuery({
    queryKey: ["tickets", query],
    queryFn: ({ pageParam }) => {
      const page = new URLSearchParams(query);
      if (pageParam) page.set("after", pageParam);
      return api.get<{ items: TicketRow[]; more: boolean }>(`/api/tickets?${page}`);
    },
    initialPageParam: "",
    getNextPageParam: (page) => (page.more ? page.items.at(-1)?.number : undefined),
    placeholderData: keepPreviousData,
  });
  const rows = useMemo(() => tickets.data?.pages.flatMap((p) => p.items) ?? [], [tickets.data]);
  const all = seesAll(session);
  const works = all && raises(session);
  const [chosen, setChosen] = useState<string[]>([]);
  const [columns, setColumns] = useState(() => chosenColumns(all));
  const [keys, setKeys] = useState(false);

  return (
    <>
      <PageHead title={all ? "Tickets" : "What I asked"}>
        {raises(session) && (
          <Button look="primary" onClick={() => setRaising(true)}>
            {all ? "Raise a ticket" : "Ask for help"}
          </Button>
        )}
      </PageHead>
      <div className="flex flex-wrap items-end gap-2 border-b border-hairline bg-raised px-5 py-2">
        <div className="w-64" ref={search}>
          <Input
            label="Search"
            hideLabel
            type="search"
            placeholder={all ? "Number, or words of the record" : "Number, or words of the title"}
            value={text}
            onChange={(e) => set("text", e.target.value)}
            onKeyDown={(e) => e.key === "Escape" && e.currentTarget.blur()}
          />
        </div>
        <Select
          label="State"
          hideLabel
          value={open}
          onChange={(picked) => set("open", picked)}
          options={[
            { value: "true", label: "Open" },
            { value: "false", label: "Ended" },
            { value: "", label: "Open and ended" },
          ]}
        />
        {all && (
          <button
            type="button"
            aria-pressed={filter.get("assignee") === session.id}
            className={`rounded-lg border px-2.5 py-1.5 ${filter.get("assignee") === session.id ? "border-pine bg-selected font-semibold" : "border-hairline bg-sheet"}`}
            onClick={() => set("assignee", filter.get("assignee") === session.id ? "" : session.id)}
          >
            Mine
          </button>
        )}
        <Select
          label="Rows together by"
          hideLabel
          value={by ?? ""}
          onChange={(picked) => set("by", picked)}
          options={[
            { value: "", label: "One list" },
            { value: "priority", label: "By priority" },
            { value: "state", label: "By state" },
            ...(all
              ? [
                  { value: "with", label: "By who has it" },
                  { value: "service", label: "By service" },
                ]
              : []),
          ]}
        />
        <ColumnChoice
          all={all}
          shown={columns}
          onChange={(next) => {
            keepColumns(next);
            setColumns(next);
          }}
        />
        <a className="link px-1 py-1.5" href={`/api/files/tickets?${asked(filter)}`} download>
          Save as CSV
        </a>
        <Views place="tickets" query={filter.toString()} onChoose={(q) => setFilter(new URLSearchParams(q))} />
        <Narrowed filter={filter} onChange={set} />
      </div>
      <BulkBar chosen={chosen} onClear={() => setChosen([])} />
      <div className="flex min-h-0 flex-1">
        {all && <Facets filter={filter} onChange={setFilter} />}
        <div className="flex min-w-0 flex-1 flex-col bg-sheet">
          {tickets.isPending && <Loading what="tickets" />}
          {tickets.isLoadingError && (
            <div className="p-6">
              <Trouble error={tickets.error} onRetry={() => tickets.refetch()} />
            </div>
          )}
          {tickets.data && rows.length === 0 && (
            <Empty title={narrowed ? "No ticket fits" : all ? "No ticket is open" : "Nothing of yours is open"}>
              {narrowed
                ? "Try fewer words or filters, or look among the ended ones."
                : raises(session)
                  ? "Press n, or the button above, to raise one. What has ended is under “Ended”."
                  : ""}
            </Empty>
          )}
          {rows.length > 0 && (
            <TicketTable
              rows={rows}
              shown={columns}
              order={order}
              onOrder={(next) => {
                const changed = new URLSearchParams(filter);
                changed.delete("by");
                changed.set("order", next);
                setFilter(changed);
              }}
              by={by}
              chosen={works ? chosen : undefined}
              onChoose={setChosen}
            />
          )}
          {tickets.hasNextPage && (
            <div className="border-t border-hairline p-2 text-center">
              <Button disabled={tickets.isFetchingNextPage} onClick={() => tickets.fetchNextPage()}>
                Further ones
              </Button>
            </div>
          )}
        </div>
      </div>
      {keys && <KeysDialog keys={LIST_KEYS} onClose={() => setKeys(false)} />}
      <RaiseDialog
        open={raising || (raise === true && raises(session))}
        onClose={() => {
          setRaising(false);
          if (raise) setFilter(filter);
        }}
      />
    </>
  );
}

const groupBy = (by: string | null): GroupKey | undefined => (by && by in GROUPS ? (by as GroupKey) : undefined);

/** Which columns the list has, kept in this browser. */
function ColumnChoice({
  all,
  shown,
  onChange,
}: {
  all: boolean;
  shown: ColumnKey[];
  onChange: (shown: ColumnKey[]) => void;
}) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button look="quiet">Columns…</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          aria-label="Columns"
          className="z-40 flex flex-col gap-1.5 rounded-lg border border-hairline bg-raised p-3 shadow-xl"
        >
          {COLUMNS.filter((c) => (all || !c.forAll) && !c.always).map((c) => (
            <Check
              key={c.key}
              label={c.label}
              checked={shown.includes(c.key)}
              onChange={(on) => onChange(on ? [...shown, c.key] : shown.filter((k) => k !== c.key))}
            />
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** What the list is narrowed down to beside words and the left column, each taken back by a click. */
function Narrowed({ filter, onChange }: { filter: URLSearchParams; onChange: (field: string, value: string) => void }) {
  const names = useNames();
  const { session } = useSession();
  const said: [string, string][] = [];
  const assignee = filter.get("assignee");
  const requester = filter.get("requester");
  const ci = filter.get("ci");
  if (assignee && assignee !== session.id) said.push(["assignee", `with ${names.person(assignee)}`]);
  if (requester) said.push(["requester", `asked by ${names.person(requester)}`]);
  if (ci) said.push(["ci", `on ${ci}`]);
  for (const [field, word] of [
    ["raisedFrom", "raised from"],
    ["raisedBefore", "raised before"],
  ] as const) {
    const at = filter.get(field);
    if (at)
      said.push([
        field,
        `${word} ${new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" })}`,
      ]);
  }
  return said.map(([field, words]) => (
    <button
      key={field}
      type="button"
      className="rounded-full border border-pine bg-selected px-2.5 py-0.5 text-sm"
      aria-label={`Not only ${words}`}
      onClick={() => onChange(field, "")}
    >
      {words} ✕
    </button>
  ));
}
