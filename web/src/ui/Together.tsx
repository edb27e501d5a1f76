import { type Query, useIsFetching, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";

/** Longer than this nobody looks at an empty place because one part of it is slow. */
const AT_MOST = 1500;

const FIRST_TIME = (query: Query) => query.state.status === "pending";

/**
 * Parts that load by themselves come up together, so that none pushes another away under the hand. What loads later on changes in
 * place. Give it a key of what it is about: for something else it begins anew.
 */
export function Together({ className = "", children }: { className?: string; children: ReactNode }) {
  const client = useQueryClient();
  const loading = useIsFetching({ predicate: FIRST_TIME }) > 0;
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const late = window.setTimeout(() => setReady(true), AT_MOST);
    return () => window.clearTimeout(late);
  }, []);
  useEffect(() => {
    if (loading) return;
    // What was asked for in this moment is not told yet, least of all what the part around this one asks for: it is counted itself.
    const soon = window.setTimeout(() => {
      if (client.isFetching({ predicate: FIRST_TIME }) === 0) setReady(true);
    }, 0);
    return () => window.clearTimeout(soon);
  }, [loading, client]);
  return (
    <div aria-busy={!ready} className={`${className} ${ready ? "" : "invisible"}`}>
      {children}
    </div>
  );
}
