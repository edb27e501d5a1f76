import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, isUnsent, ProblemError } from "../../api/client";
import { useSession } from "../signin/session";
import { useTooLate } from "./tooLate";
import { commandId, useUnsent } from "./unsent";

const TOO_LATE = "urn:dastur:problem:too-late";

/**
 * Sends one command about a ticket; whatever became of it, its page, its record and the Desk are read again. What did not
 * reach the server is said on every page until it is sent, under the same id.
 */
export function useSend(ticket: string, onDone?: () => void) {
  const queries = useQueryClient();
  const { session } = useSession();
  return useMutation({
    mutationFn: async ({ path, body, put }: { path: string; body?: unknown; put?: boolean }) => {
      const id = commandId(path, body);
      try {
        const answer = put ? await api.put(path, body, id) : await api.post(path, body, id);
        useUnsent.getState().sent(path);
        return answer;
      } catch (error) {
        if (isUnsent(error)) useUnsent.getState().keep({ person: session.id, ticket, path, body, put, id });
        else useUnsent.getState().sent(path);
        throw error;
      }
    },
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
      queries.invalidateQueries({ queryKey: ["asked"] });
    },
  });
}
