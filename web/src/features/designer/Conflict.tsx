import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { api } from "../../api/client";
import type { Workflow } from "../../api/types";
import { Button } from "../../ui/kit";
import { useDesigner } from "./store";

/** Two are editing: says who was first, keeps mine, and asks whose shall count. */
export function Conflict({ problem, workflow }: { problem: { detail: string }; workflow: Workflow }) {
  const queries = useQueryClient();
  const overwrite = useDesigner((s) => s.overwrite);
  const navigate = useNavigate();
  /** Mine becomes a workflow of its own; nothing of either is lost. */
  const copy = useMutation({
    mutationFn: async () => {
      const mine = useDesigner.getState().version;
      if (!mine) throw new Error("There is nothing to copy.");
      const key = `${mine.key.slice(0, 50)}-${Date.now().toString(36)}`;
      const name = `${mine.name} (my copy)`.slice(0, 120);
      const made = await api.post<Workflow>("/api/workflows", { key, name, ...(mine.kind ? { kind: mine.kind } : {}) });
      await api.put(`/api/workflows/${key}/draft`, {
        version: { ...mine, key, name, number: 1 },
        revision: made.draftRevision,
      });
      localStorage.removeItem(`dastur-draft-${mine.key}`);
      return key;
    },
    onSuccess: (key) => navigate({ to: "/workflows/$key", params: { key } }),
  });
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
      <Button disabled={copy.isPending} onClick={() => copy.mutate()}>
        Keep mine as a copy
      </Button>
      {copy.isError && <span className="text-late">{copy.error.message}</span>}
    </div>
  );
}
