import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { Workflow } from "../../api/types";
import { Button } from "../../ui/kit";
import { useDesigner } from "./store";

/** Two are editing: says who was first, keeps mine, and asks whose shall count. */
export function Conflict({ problem, workflow }: { problem: { detail: string }; workflow: Workflow }) {
  const queries = useQueryClient();
  const overwrite = useDesigner((s) => s.overwrite);
  const theirs = useMutation({ mutationFn: () => api.get<Workflow>(`/api/workflows/${workflow.key}`) });
  return (
    <div role="alert" className="flex flex-wrap items-center gap-3 border-b border-late bg-sheet px-5 py-2">
      <span>
        <strong className="text-late">Two are editing.</strong> {problem.detail.replace(/Load it.*/, "")} Yours is kept
        here.
      </span>
      <Button
        onClick={() =>
          theirs.mutate(undefined, {
            onSuccess: (w) => {
              localStorage.removeItem(`dastur-draft-${workflow.key}`);
              queries.setQueryData(["workflow", workflow.key], w);
              useDesigner.getState().open(w);
            },
          })
        }
      >
        Take theirs
      </Button>
      <Button onClick={() => theirs.mutate(undefined, { onSuccess: (w) => overwrite(w.draftRevision) })}>
        Put mine over it
      </Button>
    </div>
  );
}
