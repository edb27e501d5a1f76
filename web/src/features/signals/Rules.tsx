import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { SourceView } from "../../api/types";
import { Check } from "../../ui/Check";
import { Select, Trouble } from "../../ui/kit";
import { span } from "../../ui/time";

const MINUTES = [5, 15, 30, 60, 120, 360, 720, 1440, 4320, 10080, 20160];

/** Whether it is listened to, what becomes of faults that no trigger takes up, and when its silence is told. */
export function Rules({ view, may }: { view: SourceView; may: boolean }) {
  const names = useNames();
  const queries = useQueryClient();
  const { source } = view;
  const save = useMutation({
    mutationFn: (change: Partial<SourceView["source"]>) => {
      const { key, ...body } = { ...source, ...change };
      return api.put(`/api/sources/${key}`, body);
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["source", source.key] }),
  });
  return (
    <section aria-label="What becomes of it" className="mt-8 flex max-w-xl flex-col gap-3">
      <h2 className="font-bold">What becomes of it</h2>
      <Check
        label="Listen to it: while it is shut, senders are told so and nothing is taken"
        checked={source.open}
        disabled={!may || save.isPending}
        onChange={(open) => save.mutate({ open })}
      />
      <Select
        label="Faults that no trigger takes up"
        disabled={!may || save.isPending}
        value={source.otherwise}
        onChange={(otherwise) => save.mutate({ otherwise: otherwise as typeof source.otherwise })}
        options={[
          { value: "kept", label: "are kept and shown under Signals, and open nothing" },
          { value: "incident", label: "open an incident" },
        ]}
      />
      <Check
        label="Tell its faults in planned work too: else what a change in its window explains opens nothing"
        checked={source.neverQuiet}
        disabled={!may || save.isPending}
        onChange={(neverQuiet) => save.mutate({ neverQuiet })}
      />
      <Select
        label="Group that gets the incidents"
        disabled={!may || save.isPending}
        value={source.group ?? ""}
        onChange={(group) => save.mutate({ group: group === "" ? undefined : group })}
        options={[
          { value: "", label: "nobody in particular" },
          ...(names.directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })),
        ]}
      />
      <Select
        label="When nothing comes from it"
        disabled={!may || save.isPending}
        value={String(source.silentAfterMinutes ?? "")}
        onChange={(minutes) => save.mutate({ silentAfterMinutes: minutes === "" ? undefined : Number(minutes) })}
        options={[
          { value: "", label: "nobody is told" },
          ...steps(source.silentAfterMinutes).map((m) => ({
            value: String(m),
            label: `that is a fault after ${span(m * 60_000)}`,
          })),
        ]}
        help={
          view.usuallySeconds === undefined
            ? "Too few have come to say how often one usually does."
            : `Usually one comes every ${span(Math.max(1, view.usuallySeconds) * 1000)}.`
        }
      />
      {save.isError && <Trouble error={save.error} />}
    </section>
  );
}

/** One that was set by a program may lie between them. */
function steps(set: number | undefined): number[] {
  return set === undefined || MINUTES.includes(set) ? MINUTES : [...MINUTES, set].sort((a, b) => a - b);
}
