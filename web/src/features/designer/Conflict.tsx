import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { Version, Workflow } from "../../api/types";
import { allSteps } from "../../route/ofVersion";
import { Choices } from "../../ui/Choices";
import { Button, Dialog } from "../../ui/kit";
import { compareSteps } from "./CompareDialog";
import { type Clash, clashWords, type Merged, merge, takeTheirs } from "./merge";
import { useDesigner } from "./store";

/** The steps that differ between two versions, by name. */
function touched(before: Version, after: Version): string {
  const names = new Map([...allSteps(before.body.steps), ...allSteps(after.body.steps)].map((s) => [s.id, s.name]));
  const { marks, gone } = compareSteps(before, after);
  const all = [...marks.keys(), ...gone.map((s) => s.id)].map((id) => `“${names.get(id) ?? id}”`);
  return all.length > 4
    ? `${all.slice(0, 4).join(", ")} and ${all.length - 4} more`
    : all.join(", ") || "its description";
}

/** Two are editing: says who was first and what they changed, keeps mine, and brings both together or asks whose counts. */
export function Conflict({ problem, workflow }: { problem: { detail: string }; workflow: Workflow }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { version: mine, base, overwrite, edit } = useDesigner();
  const [clashing, setClashing] = useState<{ merged: Merged; revision: number }>();
  const theirs = useMutation({ mutationFn: () => api.get<Workflow>(`/api/workflows/${workflow.key}`) });
  const { mutate: look } = theirs;
  useEffect(() => look(), [look]);
  const other = theirs.data?.draft ?? theirs.data?.live;
  const merged = base && mine && other ? merge(base, mine, other) : undefined;
  /** Mine becomes a workflow of its own; nothing of either is lost. */
  const copy = useMutation({
    mutationFn: async () => {
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
  /** Mine becomes the merged version, which can be undone like any change. */
  const apply = (version: Version, revision: number) => {
    edit((draft) => Object.assign(draft, version));
    setClashing(undefined);
    overwrite(revision);
  };
  const takeOver = (w: Workflow) => {
    localStorage.removeItem(`dastur-draft-${workflow.key}`);
    queries.setQueryData(["workflow", workflow.key], w);
    useDesigner.getState().open(w);
  };
  return (
    <div role="alert" className="flex flex-wrap items-center gap-3 border-b border-late bg-sheet px-5 py-2">
      <span>
        <strong className="text-late">Two are editing.</strong> {problem.detail.replace(/Load it.*/, "")}{" "}
        {base && other && `They changed ${touched(base, other)}. `}Yours is kept here.
      </span>
      {merged && (
        <Button
          look="primary"
          onClick={() =>
            theirs.mutate(undefined, {
              onSuccess: (w) => {
                const now = w.draft ?? w.live;
                const both = base && mine && now ? merge(base, mine, now) : undefined;
                if (!both) return;
                if (both.clashes.length === 0) apply(both.version, w.draftRevision);
                else setClashing({ merged: both, revision: w.draftRevision });
              },
            })
          }
        >
          {merged.clashes.length === 0
            ? "Bring both together"
            : `Bring both together, ${merged.clashes.length} to choose`}
        </Button>
      )}
      <Button onClick={() => theirs.mutate(undefined, { onSuccess: takeOver })}>Take theirs</Button>
      <Button onClick={() => theirs.mutate(undefined, { onSuccess: (w) => overwrite(w.draftRevision) })}>
        Put mine over it
      </Button>
      <Button disabled={copy.isPending} onClick={() => copy.mutate()}>
        Keep mine as a copy
      </Button>
      {copy.isError && <span className="text-late">{copy.error.message}</span>}
      {theirs.isError && <span className="text-late">{theirs.error.message}</span>}
      {clashing && (
        <ClashDialog
          merged={clashing.merged}
          onClose={() => setClashing(undefined)}
          onChosen={(version) => apply(version, clashing.revision)}
        />
      )}
    </div>
  );
}

const words = (value: Clash["mine"]) =>
  value === undefined ? "taken away" : typeof value === "string" ? value : JSON.stringify(value, undefined, 1);

/** Where both changed the same: whose counts, one by one. */
function ClashDialog({
  merged,
  onClose,
  onChosen,
}: {
  merged: Merged;
  onClose: () => void;
  onChosen: (version: Version) => void;
}) {
  const [theirs, setTheirs] = useState<number[]>([]);
  return (
    <Dialog title="Both of you changed this" open onClose={onClose} wide>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          onChosen(
            merged.clashes.reduce((v, clash, i) => (theirs.includes(i) ? takeTheirs(v, clash) : v), merged.version),
          );
        }}
      >
        {merged.clashes.map((clash, i) => (
          <fieldset key={clash.path.join("/")} className="border-b border-hairline pb-3">
            <legend className="font-semibold">{clashWords(merged.version, clash)}</legend>
            <Choices
              label={clashWords(merged.version, clash)}
              value={theirs.includes(i) ? "theirs" : "mine"}
              onChange={(whose) => setTheirs(whose === "theirs" ? [...theirs, i] : theirs.filter((x) => x !== i))}
              options={["mine", "theirs"].map((whose) => ({
                value: whose,
                label: whose,
                children: (
                  <span className="flex gap-2">
                    <span className="w-14 shrink-0 text-ink-2">{whose}</span>
                    <span className="min-w-0 whitespace-pre-wrap break-words">
                      {words(whose === "theirs" ? clash.theirs : clash.mine)}
                    </span>
                  </span>
                ),
              }))}
            />
          </fieldset>
        ))}
        <div>
          <Button look="primary" type="submit">
            Bring both together so
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
