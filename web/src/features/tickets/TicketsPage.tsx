import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { TicketRow } from "../../api/types";
import { useKeys } from "../../ui/keys";
import { Button, Empty, Input, Loading, PageHead, Select, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { raises, seesAll, useSession } from "../signin/session";
import { NextClock } from "../ticket/Clocks";
import { BulkBar } from "./BulkBar";
import { Facets } from "./Facets";
import { RaiseDialog } from "./RaiseDialog";
import { Views } from "./Views";

/** Find tickets; raise one. */
export function TicketsPage() {
  const { session } = useSession();
  const names = useNames();
  const now = useNow();
  const navigate = useNavigate();
  const [raising, setRaising] = useState(false);
  const { q } = useSearch({ from: "/tickets" });
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
  const open = filter.get("open") ?? "";
  const asked = useDeferredValue(filter.toString());
  useKeys({ n: () => raises(session) && setRaising(true) });

  const tickets = useInfiniteQuery({
    queryKey: ["tickets", asked],
    queryFn: ({ pageParam }) => {
      const query = new URLSearchParams(asked);
      if (pageParam) query.set("after", pageParam);
      return api.get<{ items: TicketRow[]; more: boolean }>(`/api/tickets?${query}`);
    },
    initialPageParam: "",
    getNextPageParam: (page) => (page.more ? page.items.at(-1)?.number : undefined),
    placeholderData: keepPreviousData,
  });
  const rows = tickets.data?.pages.flatMap((p) => p.items) ?? [];
  const all = seesAll(session);
  const works = all && raises(session);
  const [chosen, setChosen] = useState<string[]>([]);

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
        <div className="w-72">
          <Input
            label="Search"
            hideLabel
            type="search"
            placeholder={all ? "Number, or words of the record" : "Number, or words of the title"}
            value={text}
            onChange={(e) => set("text", e.target.value)}
          />
        </div>
        <Select
          label="State"
          hideLabel
          value={open}
          onChange={(e) => set("open", e.target.value)}
          options={[
            { value: "true", label: "Open" },
            { value: "false", label: "Ended" },
            { value: "", label: "Open and ended" },
          ]}
        />
        <Views place="tickets" query={filter.toString()} onChoose={(query) => setFilter(new URLSearchParams(query))} />
      </div>
      <BulkBar chosen={chosen} onClear={() => setChosen([])} />
      <div className="flex min-h-0 flex-1">
        {all && <Facets filter={filter} onChange={setFilter} />}
        <div className="min-w-0 flex-1 overflow-auto bg-sheet">
          {tickets.isPending && <Loading what="tickets" />}
          {tickets.isLoadingError && (
            <div className="p-6">
              <Trouble error={tickets.error} onRetry={() => tickets.refetch()} />
            </div>
          )}
          {tickets.data && rows.length === 0 && (
            <Empty title={text ? "No ticket fits" : all ? "No ticket is open" : "You have asked for nothing yet"}>
              {text
                ? "Try fewer words, or look among the ended ones."
                : raises(session)
                  ? "Press n, or the button above, to raise one."
                  : ""}
            </Empty>
          )}
          {rows.length > 0 && (
            <table className="w-full text-left">
              <thead className="sticky top-0 bg-raised text-xs text-ink-2">
                <tr className="border-b border-hairline">
                  {works && (
                    <th className="w-9 pl-5">
                      <input
                        type="checkbox"
                        aria-label="Choose all that are listed"
                        checked={rows.every((t) => chosen.includes(t.number))}
                        onChange={(e) => setChosen(e.target.checked ? rows.slice(0, 100).map((t) => t.number) : [])}
                      />
                    </th>
                  )}
                  <th className="w-20 py-1.5 pl-5 font-medium">Number</th>
                  <th className="w-12 font-medium">Prio</th>
                  <th className="font-medium">Title</th>
                  <th className="hidden w-28 font-medium md:table-cell">State</th>
                  {all && <th className="hidden w-36 font-medium lg:table-cell">With</th>}
                  {all && <th className="hidden w-28 font-medium 2xl:table-cell">CI</th>}
                  {all && <th className="hidden w-36 font-medium xl:table-cell">Clock</th>}
                  <th className="w-24 pr-5 text-right font-medium">Last change</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((t) => (
                  <tr
                    key={t.number}
                    className="h-9 cursor-pointer border-b border-hairline hover:bg-selected"
                    onClick={() => navigate({ to: "/tickets/$number", params: { number: t.number } })}
                  >
                    {works && (
                      // biome-ignore lint/a11y/useKeyWithClickEvents: only keeps a click beside the box from opening the ticket
                      <td className="pl-5" onClick={(e) => e.stopPropagation()}>
                        <input
                          type="checkbox"
                          aria-label={`Choose ${t.number}`}
                          checked={chosen.includes(t.number)}
                          onChange={(e) =>
                            setChosen(e.target.checked ? [...chosen, t.number] : chosen.filter((n) => n !== t.number))
                          }
                        />
                      </td>
                    )}
                    <td className="pl-5">
                      <a
                        className="link font-medium"
                        href={`/tickets/${t.number}`}
                        onClick={(e) => {
                          e.preventDefault();
                          navigate({ to: "/tickets/$number", params: { number: t.number } });
                        }}
                      >
                        {t.number}
                      </a>
                    </td>
                    <td
                      className={
                        t.priority === "P1" && !t.ended
                          ? "font-bold text-late"
                          : t.priority === "P2" && !t.ended
                            ? "font-semibold"
                            : "text-ink-2"
                      }
                    >
                      {t.priority}
                    </td>
                    <td className="max-w-0 truncate pr-3 font-medium" title={t.title}>
                      {t.title}
                    </td>
                    <td className="hidden md:table-cell">{t.state}</td>
                    {all && (
                      <td className="hidden truncate lg:table-cell">
                        {t.assignee ? names.person(t.assignee) : names.group(t.group) || "—"}
                      </td>
                    )}
                    {all && <td className="hidden font-mono text-xs 2xl:table-cell">{t.ci ?? "—"}</td>}
                    {all && (
                      <td className="hidden xl:table-cell">
                        <NextClock target={t.ended ? undefined : t.target} due={t.targetDue} now={now} />
                      </td>
                    )}
                    <td className="pr-5 text-right whitespace-nowrap text-ink-2" title={exact(t.updatedAt)}>
                      {moment(t.updatedAt, now)}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {tickets.hasNextPage && (
            <div className="p-3 text-center">
              <Button disabled={tickets.isFetchingNextPage} onClick={() => tickets.fetchNextPage()}>
                Older ones
              </Button>
            </div>
          )}
        </div>
      </div>
      <RaiseDialog open={raising} onClose={() => setRaising(false)} />
    </>
  );
}
