import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import type { Mapping, MappingRow, Reading, SampleView, SignalLine, SignalView, SourceView } from "../../api/types";
import { Button, Empty, Select, Trouble } from "../../ui/kit";
import { AsItCame } from "./AsItCame";
import { KeptSamples, type Tried } from "./KeptSamples";
import { MappingRowEditor } from "./MappingRowEditor";
import { changed, labelOf, missing, taking } from "./mapping";
import { WhatWouldHappen } from "./WhatWouldHappen";

/** How it came on the left, how Dastur understands it on the right, both at once, on any of what came last. */
export function MappingEditor({ view, samples, may }: { view: SourceView; samples: SignalLine[]; may: boolean }) {
  const store = `dastur-mapping-${view.source.key}`;
  const queries = useQueryClient();
  const [mapping, setMapping] = useState<Mapping>(() => {
    const kept = sessionStorage.getItem(store);
    return kept ? (JSON.parse(kept) as Mapping) : view.source.mapping;
  });
  const [editing, setEditing] = useState<number>();
  const [which, setWhich] = useState(0);
  const [kept, setKept] = useState<string>();
  const latest = samples[Math.min(which, samples.length - 1)];
  /** What it is tried on: one that is kept by a name, or one of those that came last. */
  const sample: Tried | undefined = kept ? { kept } : latest && { signal: latest.id };
  const differs = JSON.stringify(mapping) !== JSON.stringify(view.source.mapping);
  const change = (next: Mapping) => {
    setMapping(next);
    // What was typed outlives a look elsewhere.
    sessionStorage.setItem(store, JSON.stringify(next));
  };
  const raw = useQuery({
    queryKey: ["signal", view.source.key, sample],
    queryFn: (): Promise<Pick<SampleView, "raw">> =>
      kept
        ? api.get<SampleView>(`/api/sources/${view.source.key}/samples/${encodeURIComponent(kept)}`)
        : api.get<SignalView>(`/api/signals/${latest?.id}`),
    enabled: sample !== undefined,
    placeholderData: keepPreviousData,
  });
  const asked = useDeferredValue(mapping);
  const reading = useQuery({
    queryKey: ["reading", view.source.key, sample, asked],
    queryFn: () => api.post<Reading>(`/api/sources/${view.source.key}/readings`, { mapping: asked, ...sample }),
    enabled: sample !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const save = useMutation({
    mutationFn: () => {
      const { key, ...body } = view.source;
      return api.put(`/api/sources/${key}`, { ...body, mapping });
    },
    onSuccess: async () => {
      sessionStorage.removeItem(store);
      setEditing(undefined);
      await Promise.all(["source", "catalogue"].map((k) => queries.invalidateQueries({ queryKey: [k] })));
    },
  });
  const add = (to: string) => {
    const row: MappingRow =
      to === "value"
        ? { to: "value", name: `value${mapping.rows.length}`, type: "text", from: { is: "at", pointer: "/" } }
        : { to: to as MappingRow["to"], from: { is: "at", pointer: "/" } };
    change({ rows: [...mapping.rows, row] });
    setEditing(mapping.rows.length);
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-auto lg:flex-row lg:overflow-hidden">
      <section
        aria-label="As it came"
        className="shrink-0 border-hairline p-5 max-lg:border-b lg:w-[400px] lg:overflow-auto lg:border-r"
      >
        <div className="mb-2 flex items-center gap-2">
          <h2 className="flex-1 font-bold">As it came</h2>
          {samples.length > 1 && !kept && (
            <>
              <Button look="quiet" aria-label="A later one" disabled={which === 0} onClick={() => setWhich(which - 1)}>
                ‹
              </Button>
              <span className="text-sm text-ink-2">
                {Math.min(which, samples.length - 1) + 1} of {samples.length}
              </span>
              <Button
                look="quiet"
                aria-label="An earlier one"
                disabled={which >= samples.length - 1}
                onClick={() => setWhich(which + 1)}
              >
                ›
              </Button>
            </>
          )}
        </div>
        <KeptSamples source={view.source.key} signal={latest?.id} chosen={kept} may={may} onChoose={setKept} />
        {sample === undefined && (
          <Empty title="Nothing has come yet">
            Send one, as How to send says: it need not be understood. Then say here what its words mean.
          </Empty>
        )}
        {raw.isError && <Trouble error={raw.error} />}
        {raw.data && (
          <AsItCame
            raw={raw.data.raw}
            used={mapping.rows.flatMap((r) => (r.from.is === "at" ? [r.from.pointer] : []))}
            editing={editing === undefined ? undefined : labelOf(mapping.rows[editing] ?? { to: "value" })}
            onTake={
              may
                ? (leaf) => {
                    const [next, row] = taking(mapping, editing, leaf);
                    change(next);
                    setEditing(row);
                  }
                : undefined
            }
          />
        )}
      </section>
      <section aria-label="As Dastur understands it" className="min-w-0 flex-1 bg-sheet p-5 lg:overflow-auto">
        <div className="mb-2 flex flex-wrap items-center gap-2">
          <h2 className="flex-1 font-bold">As Dastur understands it</h2>
          {may && differs && (
            <>
              <Button
                look="quiet"
                onClick={() => {
                  sessionStorage.removeItem(store);
                  setMapping(view.source.mapping);
                  setEditing(undefined);
                }}
              >
                Leave it as it was
              </Button>
              <Button look="primary" disabled={save.isPending} onClick={() => save.mutate()}>
                Use from now on
              </Button>
            </>
          )}
        </div>
        {save.isError && <Trouble error={save.error} />}
        {reading.isError && <Trouble error={reading.error} />}
        <ul>
          {mapping.rows.map((row, i) => (
            <MappingRowEditor
              // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
              key={i}
              row={row}
              cell={reading.data?.cells[i]?.to === row.to ? reading.data.cells[i] : undefined}
              open={editing === i}
              onOpen={may ? () => setEditing(editing === i ? undefined : i) : undefined}
              onChange={(next) => change(changed(mapping, i, next))}
              onRemove={() => {
                change({ rows: mapping.rows.filter((_, at) => at !== i) });
                setEditing(undefined);
              }}
            />
          ))}
        </ul>
        {may && (
          <div className="mt-3 max-w-xs">
            <Select
              label="Say more of it"
              value=""
              placeholder="a value of your own, or…"
              onChange={add}
              options={[
                { value: "value", label: "a value of your own" },
                ...missing(mapping).map((t) => ({ value: t.to, label: `${t.label}: ${t.help}` })),
              ]}
            />
          </div>
        )}
        {reading.data && <Outcome reading={reading.data} />}
        {sample && reading.data && <WhatWouldHappen source={view.source.key} sample={sample} mapping={asked} />}
      </section>
    </div>
  );
}

/** What all of it comes to. */
function Outcome({ reading }: { reading: Reading }) {
  const s = reading.signal;
  return (
    <div role="status" className="mt-5 border-t border-hairline pt-3">
      {s ? (
        <p>
          <strong>{s.title}</strong>{" "}
          <span className="text-ink-2">
            is {s.sort === "fault" ? `a ${s.severity} fault` : s.sort}
            {s.matter ? (
              <>
                {" "}
                of the matter <span className="font-mono text-sm">{s.matter}</span>
              </>
            ) : (
              ": it names no CI and no alarm"
            )}
            .
          </span>
        </p>
      ) : (
        <p className="text-late">Not understood: {reading.problem}</p>
      )}
    </div>
  );
}
