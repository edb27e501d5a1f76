import type { Trigger, Workflow } from "../../api/types";
import { Check } from "../../ui/Check";
import { Input, Select } from "../../ui/kit";
import { RhythmEditor } from "../starts/RhythmEditor";
import { ValueEditor } from "./ValueEditor";

type TimeWhenOf = Extract<Trigger["when"], { is: "time comes" }>;
type CalledWhenOf = Extract<Trigger["when"], { is: "called" }>;

const two = (n: number) => String(n).padStart(2, "0");

/** A schedule to begin with: every day at seven, from tomorrow, where one is. */
export function everyMorning(kind: TimeWhenOf["kind"] | undefined): TimeWhenOf {
  const tomorrow = new Date(Date.now() + 86_400_000);
  const day = `${tomorrow.getFullYear()}-${two(tomorrow.getMonth() + 1)}-${two(tomorrow.getDate())}`;
  return {
    is: "time comes",
    kind: kind ?? "routine",
    rhythm: { from: `${day}T07:00`, zone: Intl.DateTimeFormat().resolvedOptions().timeZone, rule: "FREQ=DAILY" },
    inputs: {},
    missed: "made good",
    overlap: "skipped",
  };
}

/** When it starts, what it gives, and what is done about times that passed or overlap. */
export function TimeWhen({
  when,
  workflow,
  onChange,
}: {
  when: TimeWhenOf;
  workflow: Workflow;
  onChange: (when: TimeWhenOf) => void;
}) {
  const form = (workflow.draft ?? workflow.live)?.startForm ?? [];
  const inputs = when.inputs ?? {};
  return (
    <>
      <RhythmEditor rhythm={when.rhythm} onChange={(rhythm) => onChange({ ...when, rhythm })} />
      <Select
        label="A time that passed while nothing ran"
        value={when.missed}
        options={[
          { value: "made good", label: "is made good, once, within an hour" },
          { value: "left out", label: "is left out" },
        ]}
        onChange={(missed) => onChange({ ...when, missed: missed as TimeWhenOf["missed"] })}
      />
      <Select
        label="While the one before is still under way"
        value={when.overlap}
        options={[
          { value: "skipped", label: "the next is skipped" },
          { value: "waits", label: "one waits until it has ended" },
          { value: "side by side", label: "they run side by side, at most 10" },
        ]}
        onChange={(overlap) => onChange({ ...when, overlap: overlap as TimeWhenOf["overlap"] })}
      />
      <Title when={when} onChange={onChange} />
      {form.map((field) => (
        <ValueEditor
          key={field.name}
          label={`Give it ${field.label}${field.required ? "" : " (if you like)"}`}
          of={field.label}
          field={field}
          version={undefined}
          kept={{ value: inputs[field.name] ?? "" }}
          onChange={({ value }) => {
            const { [field.name]: _, ...rest } = inputs;
            onChange({ ...when, inputs: value ? { ...rest, [field.name]: value } : rest });
          }}
        />
      ))}
    </>
  );
}

/** What its callers are told. How they call it stands on its own page. */
export function CalledWhen({ when, onChange }: { when: CalledWhenOf; onChange: (when: CalledWhenOf) => void }) {
  return (
    <>
      <Title when={when} onChange={onChange} />
      <Check
        label="Callers are told the ticket’s number"
        checked={when.tellsTicket ?? false}
        onChange={(tells) => onChange({ ...when, tellsTicket: tells || undefined })}
      />
      <p className="text-sm text-ink-2 sm:col-span-2">
        Callers give the values of the start form by their names. Address, example and tokens stand under Starts, once
        this is saved and the workflow is live.
      </p>
    </>
  );
}

/** What happens to a ticket, and no field of it shows: a vote that ends, a clock that has run so far, a signal that is entered. */
export function OnTicketWhen({
  when,
  sources = [],
  onChange,
}: {
  when: Trigger["when"];
  sources?: { key: string; name: string }[];
  onChange: (when: Trigger["when"]) => void;
}) {
  if (when.is === "approval ends")
    return (
      <Select
        label="As"
        value={when.exit}
        options={[
          { value: "approved", label: "approved" },
          { value: "declined", label: "declined" },
        ]}
        onChange={(exit) => onChange({ ...when, exit })}
      />
    );
  if (when.is === "clock reaches")
    return (
      <>
        <Select
          label="Which clock"
          value={when.clock}
          options={[
            { value: "respond", label: "the time to respond" },
            { value: "restore", label: "the time to restore" },
          ]}
          onChange={(clock) => onChange({ ...when, clock: clock as typeof when.clock })}
        />
        <Input
          label="Percent of it that has passed"
          type="number"
          min={1}
          max={100}
          required
          value={when.percent || ""}
          onChange={(e) => onChange({ ...when, percent: Number(e.target.value) })}
        />
      </>
    );
  if (when.is === "signal entered")
    return (
      <>
        <Select
          label="From the source"
          value={when.source ?? ""}
          options={[{ value: "", label: "any" }, ...sources.map((s) => ({ value: s.key, label: s.name }))]}
          onChange={(source) => onChange({ ...when, source: source || undefined })}
        />
        <Select
          label="That tells of"
          value={when.sort ?? "fault"}
          options={[
            { value: "fault", label: "a fault that begins or gets worse" },
            { value: "recovered", label: "a recovery" },
            { value: "news", label: "news" },
          ]}
          onChange={(sort) => onChange({ ...when, sort: sort as typeof when.sort })}
        />
      </>
    );
  return null;
}

function Title<W extends TimeWhenOf | CalledWhenOf>({ when, onChange }: { when: W; onChange: (when: W) => void }) {
  return (
    <Input
      label="What the ticket is called"
      maxLength={200}
      placeholder="as the workflow"
      value={when.title ?? ""}
      onChange={(e) => onChange({ ...when, title: e.target.value || undefined })}
    />
  );
}
