import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Finding, Moves, Workflow } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Dialog, Trouble } from "../../ui/kit";
import { useDesigner } from "./store";

/** What publishing changes, what blocks it, what is worth a look. */
export function PublishDialog({
  workflow,
  blocking,
  warnings,
  onClose,
  onSelect,
}: {
  workflow: Workflow;
  blocking: Finding[];
  warnings: Finding[];
  onClose: () => void;
  onSelect: (id: string | undefined) => void;
}) {
  const queries = useQueryClient();
  const { save, saving } = useDesigner();
  const [move, setMove] = useState(false);
  const moves = useQuery({
    queryKey: ["moves", workflow.key, workflow.draftRevision],
    queryFn: () => api.get<Moves>(`/api/workflows/${workflow.key}/under-way`),
    enabled: workflow.liveVersion !== undefined,
    staleTime: 0,
  });
  const movable = (moves.data?.items ?? []).filter((m) => m.problems.length === 0);
  const staying = (moves.data?.items ?? []).filter((m) => m.problems.length > 0);
  const publish = useMutation({
    mutationFn: async () => {
      await save();
      return api.post<{ version: number; moved: number }>(`/api/workflows/${workflow.key}/publish`, {
        revision: useDesigner.getState().revision,
        move,
      });
    },
    onSuccess: async () => {
      const w = await queries.fetchQuery({
        queryKey: ["workflow", workflow.key],
        queryFn: () => api.get<Workflow>(`/api/workflows/${workflow.key}`),
        staleTime: 0,
      });
      useDesigner.getState().open(w);
      queries.invalidateQueries({ queryKey: ["workflows"] });
      onClose();
    },
  });
  const list = (items: Finding[], tone: string) => (
    <ul className="mt-1 flex flex-col gap-1">
      {items.map((f) => (
        <li key={`${f.step} ${f.message}`}>
          <button
            type="button"
            className={`text-left hover:underline ${tone}`}
            onClick={() => {
              if (f.step) onSelect(f.step);
              onClose();
            }}
          >
            {f.message}
          </button>
        </li>
      ))}
    </ul>
  );
  const next = (workflow.versions[0]?.number ?? 0) + 1;
  return (
    <Dialog title={`Publish as version ${next}`} open onClose={onClose}>
      {blocking.length > 0 ? (
        <>
          <p>
            {blocking.length === 1 ? "One finding keeps" : `${blocking.length} findings keep`} it from being published.
            Choose one to go there:
          </p>
          {list(blocking, "text-late")}
        </>
      ) : (
        <p>
          {workflow.liveVersion
            ? `New runs follow version ${next}; runs under way stay on theirs unless you move them.`
            : "From now on its triggers start runs."}
          {workflow.triggers.length === 0 && " Nothing starts it yet: add a trigger afterwards."}
        </p>
      )}
      {moves.data && moves.data.items.length > 0 && (
        <div className="mt-3 flex flex-col gap-1">
          <p className="text-sm font-semibold text-ink-2">
            {moves.data.items.length}
            {moves.data.more && "+"} {moves.data.items.length === 1 ? "run is" : "runs are"} under way
          </p>
          {movable.length > 0 && (
            <Check
              label={`Move ${movable.length === 1 ? "the one" : `the ${movable.length}`} standing on steps that exist in both`}
              checked={move}
              onChange={(picked) => setMove(picked)}
            />
          )}
          {staying.length > 0 && (
            <ul className="max-h-28 overflow-auto text-sm text-ink-2">
              {staying.map((m) => (
                <li key={m.run}>
                  {m.ticket} stays on version {m.version}: {m.problems[0]}
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
      {warnings.length > 0 && (
        <div className="mt-3">
          <p className="text-sm font-semibold text-ink-2">Worth a look</p>
          {list(warnings, "text-soon")}
        </div>
      )}
      {publish.isError && (
        <div className="mt-3">
          <Trouble error={publish.error} />
        </div>
      )}
      <div className="mt-4 flex gap-2">
        <Button
          look="primary"
          disabled={blocking.length > 0 || publish.isPending || saving.is === "conflict"}
          onClick={() => publish.mutate()}
        >
          Publish
        </Button>
        <Button look="quiet" onClick={onClose}>
          Not yet
        </Button>
      </div>
    </Dialog>
  );
}
