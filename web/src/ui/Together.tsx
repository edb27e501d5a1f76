import { useIsFetching } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";

/** Longer than this nobody looks at an empty place because one part of it is slow. */
const AT_MOST = 1500;

/**
 * Parts that load by themselves come up together, so that none pushes another away under the hand. What loads later on changes in
 * place. Give it a key of what it is about: for something else it begins anew.
 */
export function Together({ className = "", children }: { className?: string; children: ReactNode }) {
  const loading = useIsFetching({ predicate: (query) => query.state.status === "pending" }) > 0;
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const late = window.setTimeout(() => setReady(true), AT_MOST);
    return () => window.clearTimeout(late);
  }, []);
  useEffect(() => {
    if (loading) return;
    // What was asked for in this moment is not counted yet.
    const soon = window.setTimeout(() => setReady(true), 0);
    return () => window.clearTimeout(soon);
  }, [loading]);
  return (
    <div aria-busy={!ready} className={`${className} ${ready ? "" : "invisible"}`}>
      {children}
    </div>
  );
}
