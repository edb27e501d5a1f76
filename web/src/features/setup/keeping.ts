import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { Keeping } from "../../api/types";
import { seesAll, useSession } from "../signin/session";

/** How what is kept stands; looked up now and then, since it concerns everybody when it does not stand well. */
export function useKeeping() {
  const { session } = useSession();
  return useQuery({
    queryKey: ["keeping"],
    queryFn: () => api.get<Keeping>("/api/keeping"),
    enabled: seesAll(session),
    refetchInterval: 60_000,
  });
}

/** One of the things an administrator does to look after it. */
export function useLookingAfter(what: "copies" | "audits" | "go-on") {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => api.post(`/api/keeping/${what}`, {}),
    onSettled: () => queries.invalidateQueries({ queryKey: ["keeping"] }),
  });
}
