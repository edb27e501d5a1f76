import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { Finding, Workflow } from "../../api/types";
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
  const publish = useMutation({
    mutationFn: async () => {
      await save();
      return api.post<{ version: number }>(`/api/workflows/${workflow.key}/publish`, {
        revision: useDesigner.getState().revision,
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
            ? `New runs follow version ${next}; runs under way stay on theirs.`
            : "From now on its triggers start runs."}
          {workflow.triggers.length === 0 && " Nothing starts it yet: add a trigger afterwards."}
        </p>
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
