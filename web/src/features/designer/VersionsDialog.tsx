import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Version, Workflow } from "../../api/types";
import { Button, Chip, Dialog, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useDesigner } from "./store";

/** All versions; throws a draft away, retires the workflow, brings it back. */
export function VersionsDialog({
  workflow,
  onCompare,
  onClose,
}: {
  workflow: Workflow;
  onCompare: () => void;
  onClose: () => void;
}) {
  const names = useNames();
  const now = useNow();
  const queries = useQueryClient();
  const reload = async () => {
    const w = await queries.fetchQuery({
      queryKey: ["workflow", workflow.key],
      queryFn: () => api.get<Workflow>(`/api/workflows/${workflow.key}`),
      staleTime: 0,
    });
    localStorage.removeItem(`dastur-draft-${workflow.key}`);
    useDesigner.getState().open(w);
    onClose();
  };
  const act = useMutation({
    mutationFn: (what: "retire" | "revive" | "discard") =>
      what === "discard"
        ? api.delete(`/api/workflows/${workflow.key}/draft`)
        : api.post(`/api/workflows/${workflow.key}/${what}`),
    onSuccess: reload,
  });
  /** An old version becomes the draft: as one change, which can be undone, and published like any other. */
  const bring = useMutation({
    mutationFn: (number: number) => api.get<Version>(`/api/workflows/${workflow.key}/versions/${number}`),
    onSuccess: (old) => {
      useDesigner.getState().edit((d) => {
        const { number } = d;
        for (const k of Object.keys(d)) delete (d as unknown as Record<string, unknown>)[k];
        Object.assign(d, old, { number });
      });
      onClose();
    },
  });
  return (
    <Dialog title="Versions" open onClose={onClose}>
      {workflow.versions.length === 0 && <p className="text-ink-2">It was never published.</p>}
      <ol>
        {workflow.versions.map((v) => (
          <li key={v.number} className="flex justify-between border-b border-hairline py-1.5">
            <span>
              Version {v.number}{" "}
              {v.number === workflow.liveVersion && (
                <Chip tone={workflow.retired ? "plain" : "well"}>{workflow.retired ? "retired" : "live"}</Chip>
              )}
            </span>
            <span className="text-right text-ink-2">
              <span title={exact(v.at)}>
                {names.person(v.by)}, {moment(v.at, now)}
              </span>
              {workflow.mayDesign && (
                <button
                  type="button"
                  className="link ml-3 text-sm"
                  aria-label={`Bring version ${v.number} back into the draft`}
                  disabled={bring.isPending}
                  onClick={() => bring.mutate(v.number)}
                >
                  into the draft
                </button>
              )}
            </span>
          </li>
        ))}
      </ol>
      {workflow.versions.length > 0 && (
        <Button className="mt-3" onClick={onCompare}>
          Compare…
        </Button>
      )}
      {(act.isError || bring.isError) && <Trouble error={act.error ?? bring.error} />}
      {workflow.mayDesign && workflow.liveVersion && (
        <div className="mt-4 flex flex-wrap gap-2">
          {workflow.draft && <Button onClick={() => act.mutate("discard")}>Throw the draft away</Button>}
          <Button look="danger" onClick={() => act.mutate(workflow.retired ? "revive" : "retire")}>
            {workflow.retired ? "Bring it back" : "Retire it"}
          </Button>
        </div>
      )}
      {workflow.mayDesign && workflow.liveVersion && !workflow.retired && (
        <p className="mt-2 text-sm text-ink-2">Retired, it starts nothing new; runs under way go on.</p>
      )}
    </Dialog>
  );
}
