import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { SavedView } from "../../api/types";
import { Button, Trouble } from "../../ui/kit";
import { late } from "../../ui/late";
import { seesAll, useSession } from "../signin/session";

const NameView = late(() => import("./NameView").then((m) => m.NameView));

/** Searches to come back to: one's own, and those that others share. */
export function Views({
  place,
  query,
  onChoose,
}: {
  place: "tickets" | "desk";
  query: string;
  onChoose: (query: string) => void;
}) {
  const { session } = useSession();
  const queries = useQueryClient();
  const [naming, setNaming] = useState(false);
  const views = useQuery({ queryKey: ["views"], queryFn: () => api.get<SavedView[]>("/api/views") });
  const stale = () => queries.invalidateQueries({ queryKey: ["views"] });
  const save = useMutation({
    mutationFn: (view: { name: string; shared: boolean }) =>
      api.post<SavedView>("/api/views", { ...view, query, place }),
    onSuccess: () => {
      setNaming(false);
      stale();
    },
  });
  const remove = useMutation({ mutationFn: (id: string) => api.delete(`/api/views/${id}`), onSettled: stale });
  const here = (views.data ?? []).filter((v) => v.place === place);
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {here.map((v) => (
        <span
          key={v.id}
          className={`flex items-center rounded-full border text-sm ${v.query === query ? "border-pine bg-selected" : "border-hairline bg-sheet"}`}
        >
          <button
            type="button"
            className="py-0.5 pl-2.5 last:pr-2.5"
            aria-pressed={v.query === query}
            title={v.shared ? "shared with everybody" : undefined}
            onClick={() => onChoose(v.query)}
          >
            {v.name}
          </button>
          {v.person === session.id && (
            <button
              type="button"
              className="px-2 text-ink-2 hover:text-ink"
              aria-label={`Delete the view ${v.name}`}
              onClick={() => remove.mutate(v.id)}
            >
              ✕
            </button>
          )}
        </span>
      ))}
      {naming ? (
        <NameView sharing={seesAll(session)} onSave={save.mutate} onBack={() => setNaming(false)} />
      ) : (
        query !== "" &&
        !here.some((v) => v.query === query) && (
          <Button look="quiet" onClick={() => setNaming(true)}>
            Save this view…
          </Button>
        )
      )}
      {save.isError && <Trouble error={save.error} />}
    </div>
  );
}
