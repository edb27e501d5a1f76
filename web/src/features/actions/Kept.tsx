import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api } from "../../api/client";
import type { ToRenew } from "../../api/types";
import { dayFar } from "../../ui/time";
import { useNow } from "../../ui/useNow";

/** Actions that one keeps and is to look at again (M5); undefined while that is not known. */
export function useKept(asks: boolean): ToRenew[] | undefined {
  const kept = useQuery({
    queryKey: ["kept-actions"],
    queryFn: () => api.get<ToRenew[]>("/api/kept-actions"),
    staleTime: 60_000,
    enabled: asks,
    retry: false,
  });
  return asks && kept.isPending ? undefined : (kept.data ?? []);
}

/** Says on a page's head that an action waits to be looked at again: the one that is due first. */
export function KeptNotice({ kept }: { kept: ToRenew[] }) {
  const now = useNow();
  const first = [...kept].sort((a, b) => a.renewBy.localeCompare(b.renewBy))[0];
  if (!first) return null;
  return (
    <Link
      to="/actions/$key"
      params={{ key: first.key }}
      className="link font-semibold text-soon max-md:hidden"
      title={`You keep ${first.name}`}
    >
      Look again at {kept.length === 1 ? `“${first.name}”` : `${kept.length} actions`} by {dayFar(first.renewBy, now)}
    </Link>
  );
}
