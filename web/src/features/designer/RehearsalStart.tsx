import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { api } from "../../api/client";
import { useDirectory, useNames } from "../../api/hooks";
import type { SampleLine, SignalLines, Trigger, Version } from "../../api/types";
import { Button, Input, Select, Trouble } from "../../ui/kit";
import { clock, day } from "../../ui/time";
import { When } from "../../ui/When";
import { Said } from "./Said";
import { triggerWords } from "./triggerWords";

/** What sets a rehearsed run off: one of the workflow's triggers, and what it listens to. */
export interface SetOff {
  trigger: string;
  source?: string;
  signal?: string;
  sample?: string;
}

/** What a rehearsal begins with, as it is typed. @param at the moment at which it begins, local; empty for now */
export interface Typed {
  ticket: string;
  fields: Record<string, string>;
  inputs: Record<string, string>;
  by?: SetOff;
  at: string;
}

/** What is to be said where a trigger of this kind sets it off. */
export const ASKS: Record<Trigger["when"]["is"], { ticket: boolean; inputs: boolean; at: boolean; signal: boolean }> = {
  "by hand": { ticket: true, inputs: true, at: false, signal: false },
  created: { ticket: true, inputs: false, at: false, signal: false },
  "field reaches": { ticket: true, inputs: false, at: false, signal: false },
  "approval ends": { ticket: true, inputs: false, at: false, signal: false },
  "clock reaches": { ticket: true, inputs: false, at: false, signal: false },
  "signal entered": { ticket: true, inputs: false, at: false, signal: true },
  "signal comes": { ticket: false, inputs: false, at: false, signal: true },
  "time comes": { ticket: false, inputs: false, at: true, signal: false },
  called: { ticket: false, inputs: true, at: false, signal: false },
};

/** The values of the start form that are typed: the caller's, or those of whoever says yes where it asks first. */
export const inputsOf = (trigger: Trigger | undefined, version: Version) =>
  trigger === undefined || ASKS[trigger.when.is].inputs || trigger.mode !== "starts" ? version.startForm : [];

/** Whether something must be chosen before it can begin. */
export const unsaid = (typed: Typed, trigger: Trigger | undefined): boolean =>
  trigger !== undefined && ASKS[trigger.when.is].signal && !typed.by?.signal && !typed.by?.sample;

/** What a rehearsal begins with: by hand on a ticket, or by what a trigger of the workflow listens to. */
export function RehearsalStart({
  version,
  triggers,
  typed,
  onChange,
  onBegin,
}: {
  version: Version;
  triggers: Trigger[];
  typed: Typed;
  onChange: (typed: Typed) => void;
  onBegin: () => void;
}) {
  const names = useNames();
  const trigger = triggers.find((t) => t.id === typed.by?.trigger);
  const asks = ASKS[trigger?.when.is ?? "by hand"];
  const begun = triggers.filter((t) => t.when.is !== "by hand");
  const set = (change: Partial<Typed>) => onChange({ ...typed, ...change });
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        onBegin();
      }}
    >
      {begun.length > 0 && (
        <Select
          label="It begins"
          value={trigger?.id ?? ""}
          onChange={(id) => set({ by: id ? { trigger: id, source: sourceOf(triggers, id) } : undefined })}
          options={[
            { value: "", label: "by hand, on a ticket" },
            ...begun.map((t) => ({ value: t.id, label: triggerWords(t, names) })),
          ]}
        />
      )}
      {asks.signal && trigger && typed.by && (
        <WhichSignal
          by={typed.by}
          fixed={sourceOf(triggers, trigger.id) !== undefined}
          onChange={(by) => set({ by })}
        />
      )}
      {asks.at && <When label="At (empty for now)" value={typed.at} onChange={(at) => set({ at })} />}
      {asks.ticket && (
        <Input
          label="On a copy of ticket"
          placeholder="I-1043, or leave empty"
          value={typed.ticket}
          onChange={(e) => set({ ticket: e.target.value })}
        />
      )}
      {asks.ticket &&
        !typed.ticket.trim() &&
        Object.keys(typed.fields).map((name) => (
          <Input
            key={name}
            label={name === "ci" ? "CI" : name.charAt(0).toUpperCase() + name.slice(1)}
            value={typed.fields[name] ?? ""}
            onChange={(e) => set({ fields: { ...typed.fields, [name]: e.target.value } })}
          />
        ))}
      {inputsOf(trigger, version).map((f) => (
        <div key={f.name}>
          <p className="mb-0.5 text-sm font-semibold text-ink-2">{f.required ? `${f.label} (needed)` : f.label}</p>
          <Said
            field={f}
            label={f.required ? `${f.label} (needed)` : f.label}
            said={typed.inputs[f.name] ?? ""}
            onChange={(said) => set({ inputs: { ...typed.inputs, [f.name]: said } })}
          />
        </div>
      ))}
      <Button look="primary" type="submit" disabled={unsaid(typed, trigger)}>
        Begin
      </Button>
    </form>
  );
}

/** Whose signals a trigger listens to; undefined for anybody's, and where it listens to none. */
function sourceOf(triggers: Trigger[], id: string): string | undefined {
  const when = triggers.find((t) => t.id === id)?.when;
  return when?.is === "signal comes" || when?.is === "signal entered" ? (when.source ?? undefined) : undefined;
}

/** The signal that comes: one that is kept by a name, or one of the last. */
function WhichSignal({ by, fixed, onChange }: { by: SetOff; fixed: boolean; onChange: (by: SetOff) => void }) {
  const sources = useDirectory().data?.sources ?? [];
  return (
    <>
      {!fixed && (
        <Select
          label="Source"
          value={by.source ?? ""}
          onChange={(source) => onChange({ trigger: by.trigger, source })}
          options={sources.map((s) => ({ value: s.key, label: s.name }))}
        />
      )}
      {by.source && <OfSource source={by.source} by={by} onChange={onChange} />}
    </>
  );
}

function OfSource({ source, by, onChange }: { source: string; by: SetOff; onChange: (by: SetOff) => void }): ReactNode {
  const samples = useQuery({
    queryKey: ["samples", source],
    queryFn: () => api.get<SampleLine[]>(`/api/sources/${source}/samples`),
  });
  const last = useQuery({
    queryKey: ["signals-to-rehearse", source],
    queryFn: () => api.get<SignalLines>(`/api/signals?source=${source}`),
  });
  if (samples.isError || last.isError) return <Trouble error={samples.error ?? last.error} />;
  if (!samples.data || !last.data) return <div className="h-14" />;
  const came = last.data.lines.filter((s) => s.title);
  if (samples.data.length + came.length === 0)
    return <p className="text-sm text-soon">Nothing has come from it yet, and no sample is kept of it.</p>;
  return (
    <Select
      label="The signal that comes"
      value={by.sample !== undefined ? `kept ${by.sample}` : (by.signal ?? "")}
      onChange={(v) =>
        onChange({
          trigger: by.trigger,
          source,
          ...(v.startsWith("kept ") ? { sample: v.slice("kept ".length) } : { signal: v }),
        })
      }
      options={[
        ...samples.data.map((s) => ({ value: `kept ${s.name}`, label: `sample “${s.name}”` })),
        ...came.map((s) => ({
          value: s.id,
          label: [`${day(s.cameAt)} ${clock(s.cameAt)}`, s.sort, s.title].filter(Boolean).join(" · "),
        })),
      ]}
    />
  );
}
