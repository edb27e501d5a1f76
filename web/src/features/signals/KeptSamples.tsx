import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { SampleLine } from "../../api/types";
import { Button, Input, Select, Trouble } from "../../ui/kit";

/** What a mapping is tried on: a signal that came, or a sample that is kept by its name. */
export type Tried = { signal: string } | { kept: string };

const path = (source: string, name: string) => `/api/sources/${source}/samples/${encodeURIComponent(name)}`;

/** Samples that are kept by names: what else came goes after a month, and a case one wants to think of comes seldom. */
export function KeptSamples({
  source,
  signal,
  chosen,
  may,
  onChoose,
}: {
  source: string;
  /** The one that is shown, and may be kept. */
  signal?: string;
  chosen?: string;
  may: boolean;
  onChoose: (name: string | undefined) => void;
}) {
  const queries = useQueryClient();
  const [name, setName] = useState<string>();
  const samples = useQuery({
    queryKey: ["samples", source],
    queryFn: () => api.get<SampleLine[]>(`/api/sources/${source}/samples`),
  });
  const refresh = () => queries.invalidateQueries({ queryKey: ["samples", source] });
  const keep = useMutation({
    mutationFn: (as: string) => api.put(path(source, as), { signal }),
    onSuccess: async (_, as) => {
      await refresh();
      setName(undefined);
      onChoose(as);
    },
  });
  const forget = useMutation({
    mutationFn: (gone: string) => api.delete(path(source, gone)),
    onSuccess: async () => {
      onChoose(undefined);
      await refresh();
    },
  });
  // What follows keeps its place while this is not known.
  if (samples.isPending) return <div className="mb-3 h-9" />;
  const all = samples.data ?? [];
  const taken = all.some((s) => s.name === name?.trim());
  return (
    <div className="mb-3 flex min-h-9 flex-col gap-2">
      {all.length > 0 && (
        <div className="flex items-end gap-2">
          <div className="min-w-0 flex-1">
            <Select
              label="Tried on"
              value={chosen ?? ""}
              options={[
                { value: "", label: "what came last" },
                ...all.map((s) => ({ value: s.name, label: `“${s.name}”` })),
              ]}
              onChange={(picked) => onChoose(picked || undefined)}
            />
          </div>
          {may && chosen && (
            <Button look="quiet" disabled={forget.isPending} onClick={() => forget.mutate(chosen)}>
              Let it go
            </Button>
          )}
        </div>
      )}
      {may && signal && !chosen && name === undefined && (
        <div className="-ml-3">
          <Button look="quiet" onClick={() => setName("")}>
            Keep this one…
          </Button>
        </div>
      )}
      {name !== undefined && !chosen && (
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            keep.mutate(name.trim());
          }}
        >
          <div className="min-w-0 flex-1">
            <Input
              label="Keep it as"
              required
              maxLength={80}
              pattern="[^\\/]*[^\\/ ][^\\/]*"
              placeholder="a board that says nothing of its line"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </div>
          <Button type="submit" disabled={keep.isPending}>
            {taken ? "Keep in its place" : "Keep"}
          </Button>
          <Button look="quiet" onClick={() => setName(undefined)}>
            Cancel
          </Button>
        </form>
      )}
      {samples.isLoadingError && <Trouble error={samples.error} onRetry={() => samples.refetch()} />}
      {(keep.isError || forget.isError) && <Trouble error={keep.error ?? forget.error} />}
    </div>
  );
}
