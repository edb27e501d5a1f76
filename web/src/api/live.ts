import type { QueryClient } from "@tanstack/react-query";
import { create } from "zustand";

/** Since when the server has not been heard of; absent while it is. */
export const useConnection = create<{ lostAt?: number }>(() => ({}));

/** What may look different after a change of any ticket. */
const LISTS = ["desk", "asked", "tickets", "runs", "workflows", "undelivered"];

/** Listens to what changes on the server and lets the affected queries load anew. Returns how to stop. */
export function listen(queries: QueryClient): () => void {
  const source = new EventSource("/api/live");
  let pending: number | undefined;
  const tickets = new Set<string>();
  const flush = () => {
    pending = undefined;
    for (const list of LISTS) queries.invalidateQueries({ queryKey: [list] });
    const everything = tickets.has("");
    for (const kind of ["ticket", "record"]) {
      if (everything) queries.invalidateQueries({ queryKey: [kind] });
      else for (const t of tickets) queries.invalidateQueries({ queryKey: [kind, t] });
    }
    tickets.clear();
  };
  source.addEventListener("changed", (event) => {
    tickets.add((JSON.parse((event as MessageEvent<string>).data) as { ticket: string }).ticket);
    pending ??= window.setTimeout(flush, 80);
  });
  // Whatever was loaded before the stream stood may have changed in between, at the start as after a broken connection.
  source.addEventListener("hello", () => {
    useConnection.setState({ lostAt: undefined });
    tickets.add("");
    flush();
  });
  source.addEventListener("error", () => {
    useConnection.setState(({ lostAt }) => ({ lostAt: lostAt ?? Date.now() }));
    // A stream that is refused for good: somebody signed out, and the next read says so.
    if (source.readyState === EventSource.CLOSED) queries.invalidateQueries({ queryKey: ["desk"] });
  });
  return () => {
    source.close();
    window.clearTimeout(pending);
  };
}
