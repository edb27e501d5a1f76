import type { InfiniteData, QueryClient } from "@tanstack/react-query";
import { create } from "zustand";
import type { Desk, TicketRow } from "./types";

/** Since when the server has not been heard of; absent while it is. */
export const useConnection = create<{ lostAt?: number }>(() => ({}));

/** What may look different after a change of which nobody knows whose lists it touches. */
const LISTS = ["desk", "asked", "tickets", "runs", "workflows", "undelivered"];

/** So long after something changed it is read, with what changed right after it. */
const SOON = 80;

/** Lists are read anew at most so often: a storm elsewhere does not become one here. */
const PAUSE = 1000;

/** What the server tells: which ticket changed, which lists are to be read anew, and what needs no reading. */
interface News {
  ticket: string;
  at?: string;
  lists?: string[];
  counts?: { openTickets: number; stalledRuns: number };
}

/** Listens to what changes on the server and lets the affected queries load anew. Returns how to stop. */
export function listen(queries: QueryClient): () => void {
  const source = new EventSource("/api/live");
  let ticketsSoon: number | undefined;
  let listsSoon: number | undefined;
  let listsRead = 0;
  const tickets = new Set<string>();
  const lists = new Set<string>();
  const readTickets = () => {
    ticketsSoon = undefined;
    const everything = tickets.has("");
    for (const kind of ["ticket", "record"]) {
      if (everything) queries.invalidateQueries({ queryKey: [kind] });
      else for (const t of tickets) queries.invalidateQueries({ queryKey: [kind, t] });
    }
    tickets.clear();
  };
  const readLists = () => {
    listsSoon = undefined;
    listsRead = Date.now();
    for (const list of lists) queries.invalidateQueries({ queryKey: [list] });
    lists.clear();
  };
  const soon = () => {
    if (tickets.size > 0) ticketsSoon ??= window.setTimeout(readTickets, SOON);
    if (lists.size > 0) listsSoon ??= window.setTimeout(readLists, Math.max(SOON, listsRead + PAUSE - Date.now()));
  };
  const all = () => {
    tickets.add("");
    for (const list of LISTS) lists.add(list);
  };
  source.addEventListener("changed", (event) => {
    const news = JSON.parse((event as MessageEvent<string>).data) as News;
    if (!news.lists && !news.ticket) all();
    else {
      if (news.ticket) tickets.add(news.ticket);
      for (const list of news.lists ?? LISTS) lists.add(list);
      told(queries, news);
    }
    soon();
  });
  // Whatever was loaded before the stream stood may have changed in between, at the start as after a broken connection.
  source.addEventListener("hello", () => {
    useConnection.setState({ lostAt: undefined });
    all();
    readTickets();
    readLists();
  });
  source.addEventListener("error", () => {
    useConnection.setState(({ lostAt }) => ({ lostAt: lostAt ?? Date.now() }));
    // A stream that is refused for good: somebody signed out, and the next read says so.
    if (source.readyState === EventSource.CLOSED) queries.invalidateQueries({ queryKey: ["desk"] });
  });
  return () => {
    source.close();
    window.clearTimeout(ticketsSoon);
    window.clearTimeout(listsSoon);
  };
}

/** What the news says by itself: when a ticket last changed, how many are open and how many runs stalled. Nothing is asked for that. */
function told(queries: QueryClient, news: News) {
  const { ticket, at } = news;
  const changedAt = <R extends TicketRow>(row: R) => (row.number === ticket && at ? { ...row, updatedAt: at } : row);
  if (at)
    queries.setQueriesData<InfiniteData<{ items: TicketRow[]; more: boolean }>>({ queryKey: ["tickets"] }, (list) =>
      list?.pages?.some((page) => page.items.some((row) => row.number === ticket))
        ? { ...list, pages: list.pages.map((page) => ({ ...page, items: page.items.map(changedAt) })) }
        : list,
    );
  // What is just being read may be from before this change.
  if (news.counts && queries.isFetching({ queryKey: ["desk"], exact: true }))
    queries.invalidateQueries({ queryKey: ["desk"], exact: true });
  else
    queries.setQueryData<Desk>(["desk"], (desk) =>
      desk && (news.counts || desk.tickets.some((t) => t.number === ticket))
        ? { ...desk, ...news.counts, tickets: desk.tickets.map(changedAt) }
        : desk,
    );
}
