import type { QueryClient } from "@tanstack/react-query";

/** Listens to what changes on the server and lets the affected queries load anew. Returns how to stop. */
export function listen(queries: QueryClient): () => void {
  const source = new EventSource("/api/live");
  let pending: number | undefined;
  const tickets = new Set<string>();
  const flush = () => {
    pending = undefined;
    queries.invalidateQueries({ queryKey: ["desk"] });
    queries.invalidateQueries({ queryKey: ["tickets"] });
    queries.invalidateQueries({ queryKey: ["runs"] });
    const everything = tickets.has("");
    for (const kind of ["ticket", "record"]) {
      if (everything) queries.invalidateQueries({ queryKey: [kind] });
      else for (const t of tickets) queries.invalidateQueries({ queryKey: [kind, t] });
    }
    queries.invalidateQueries({ queryKey: ["workflows"] });
    tickets.clear();
  };
  source.addEventListener("changed", (event) => {
    tickets.add((JSON.parse((event as MessageEvent<string>).data) as { ticket: string }).ticket);
    pending ??= window.setTimeout(flush, 80);
  });
  // Whatever was loaded before the stream stood may have changed in between, at the start as after a broken connection.
  source.addEventListener("hello", () => {
    tickets.add("");
    flush();
  });
  return () => {
    source.close();
    window.clearTimeout(pending);
  };
}
