import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";

/** Sends one command about a ticket and has its page and record read again. */
export function useSend(ticket: string, onDone: () => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ path, body }: { path: string; body: unknown }) => api.post(path, body),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["ticket", ticket] });
      queries.invalidateQueries({ queryKey: ["record", ticket] });
      onDone();
    },
  });
}
