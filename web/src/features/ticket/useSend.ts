import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ProblemError } from "../../api/client";
import { useTooLate } from "./tooLate";

const TOO_LATE = "urn:dastur:problem:too-late";

/** Sends one command about a ticket; whatever became of it, its page, its record and the Desk are read again. */
export function useSend(ticket: string, onDone?: () => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ path, body, put }: { path: string; body?: unknown; put?: boolean }) =>
      put ? api.put(path, body) : api.post(path, body),
    onSuccess: onDone,
    onError: (error) => {
      if (error instanceof ProblemError && error.problem.type === TOO_LATE) {
        useTooLate.getState().say({ ticket, title: error.problem.title, detail: error.problem.detail });
      }
    },
    onSettled: () => {
      queries.invalidateQueries({ queryKey: ["ticket", ticket] });
      queries.invalidateQueries({ queryKey: ["record", ticket] });
      queries.invalidateQueries({ queryKey: ["desk"] });
    },
  });
}
