import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { RunRow, Trigger, Workflow } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Dialog, Input, Select, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useCalendars } from "../starts/calendars";
import { ConditionInput } from "./ConditionInput";
import { CalledWhen, everyMorning, OnTicketWhen, TimeWhen } from "./StartsWhen";
import { firedWords, triggerWords } from "./triggerWords";

/** What starts a workflow: sentences, switched on and off without a new version, each with the runs it started. */
export function TriggersDialog({ workflow, onClose }: { workflow: Workflow; onClose: () => void }) {
  const names = { ...useNames(), calendar: useCalendars().nameOf };
  const queries = useQueryClient();
  const [triggers, setTriggers] = useState<Trigger[]>(() => workflow.triggers.map((t) => t.trigger));
  const [open, setOpen] = useState<string | undefined>(workflow.triggers.length === 0 ? undefined : triggers[0]?.id);
  const save = useMutation({
    mutationFn: () => api.put(`/api/workflows/${workflow.key}/triggers`, { triggers }),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["workflow", workflow.key] });
      queries.invalidateQueries({ queryKey: ["workflows"] });
      onClose();
    },
  });
  const set = (id: string, change: Partial<Trigger>) =>
    setTriggers(triggers.map((t) => (t.id === id ? { ...t, ...change } : t)));
  const kind = (workflow.draft ?? workflow.live)?.kind;
  const add = () => {
    const id = `${workflow.key.slice(0, 40)}-${Date.now().toString(36)}`;
    setTriggers([
      ...triggers,
      { id, on: true, when: { is: "created", ...(kind ? { kind } : {}) }, services: [], mode: "starts" },
    ]);
    setOpen(id);
  };
  /** They are looked at in their order. */
  const earlier = (id: string) => {
    const at = triggers.findIndex((t) => t.id === id);
    const next = [...triggers];
    const [trigger] = next.splice(at, 1);
    if (trigger) next.splice(at - 1, 0, trigger);
    setTriggers(next);
  };
  const firings = (id: string) => workflow.triggers.find((t) => t.trigger.id === id)?.firings ?? 0;
  return (
    <Dialog title="What starts it" open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {triggers.length === 0 && (
          <p className="text-ink-2">
            Nothing yet. Add a trigger: a ticket that is raised, a field that reaches a value, a signal, a time, a call,
            or a person.
          </p>
        )}
        <ul className="flex flex-col gap-2">
          {triggers.map((t) => (
            <li key={t.id} className="rounded-lg border border-hairline bg-sheet p-3">
              <div className="flex items-start gap-3">
                <Check label="on" checked={t.on} onChange={(picked) => set(t.id, { on: picked })} />
                <button
                  type="button"
                  className="min-w-0 flex-1 text-left font-medium"
                  aria-expanded={open === t.id}
                  onClick={() => setOpen(open === t.id ? undefined : t.id)}
                >
                  {triggerWords(t, names)}
                </button>
                <span className="shrink-0 text-ink-2">{firedWords(firings(t.id))}</span>
                {triggers.length > 1 && (
                  <Button
                    look="quiet"
                    disabled={triggers[0]?.id === t.id}
                    aria-label={`Look at it earlier: ${triggerWords(t, names)}`}
                    onClick={() => earlier(t.id)}
                  >
                    ↑
                  </Button>
                )}
              </div>
              {open === t.id && (
                <Edit
                  trigger={t}
                  names={names}
                  workflow={workflow}
                  onChange={(c) => set(t.id, c)}
                  onDelete={() => setTriggers(triggers.filter((x) => x.id !== t.id))}
                  fired={firings(t.id)}
                />
              )}
            </li>
          ))}
        </ul>
        <div>
          <Button onClick={add}>Add a trigger</Button>
        </div>
        {save.isError && <Trouble error={save.error} />}
        <div className="flex items-center gap-3">
          <Button look="primary" type="submit" disabled={save.isPending}>
            Save
          </Button>
          <span className="text-sm text-ink-2">Counts at once for the live version.</span>
        </div>
      </form>
    </Dialog>
  );
}

/** It is proposed to restore the ticket five minutes after it has recovered; runs go on. */
const AS_USUAL = { restores: false, clearSeconds: 300, stopsRuns: false };

type SignalWhenOf = Extract<Trigger["when"], { is: "signal comes" }>;

/** Whose signals, how bad, and what is done when it has recovered. */
function SignalWhen({
  when,
  names,
  onChange,
}: {
  when: SignalWhenOf;
  names: ReturnType<typeof useNames>;
  onChange: (when: SignalWhenOf) => void;
}) {
  const recovery = when.recovery ?? AS_USUAL;
  const minutes = Math.round(recovery.clearSeconds / 60);
  const set = (change: Partial<typeof recovery>) => onChange({ ...when, recovery: { ...recovery, ...change } });
  return (
    <>
      <Select
        label="From the source"
        value={when.source ?? ""}
        onChange={(source) => onChange({ ...when, source: source || undefined })}
        options={[
          { value: "", label: "any" },
          ...(names.directory?.sources ?? []).map((s) => ({ value: s.key, label: s.name })),
        ]}
      />
      <Select
        label="That tells of"
        value={when.sort ?? "fault"}
        onChange={(sort) => onChange({ ...when, sort: sort as SignalWhenOf["sort"] })}
        options={[
          { value: "fault", label: "a fault that begins or gets worse" },
          { value: "recovered", label: "a recovery" },
          { value: "news", label: "news" },
        ]}
      />
      <Input
        label="Runs it starts a minute at most, more is held back"
        type="number"
        min={1}
        max={300}
        required
        value={when.mostAMinute === 0 ? "" : (when.mostAMinute ?? 10)}
        onChange={(e) => onChange({ ...when, mostAMinute: Number(e.target.value) })}
      />
      {(when.sort ?? "fault") === "fault" && (
        <>
          <Select
            label="At least"
            value={when.atLeast ?? ""}
            onChange={(atLeast) => onChange({ ...when, atLeast: (atLeast || undefined) as SignalWhenOf["atLeast"] })}
            options={[
              { value: "", label: "however bad" },
              ...["critical", "major", "minor", "warning"].map((s) => ({ value: s, label: s })),
            ]}
          />
          <Select
            label="When it has recovered"
            value={recovery.restores ? "restores" : "proposes"}
            onChange={(then) => set({ restores: then === "restores" })}
            options={[
              { value: "proposes", label: "propose to restore the ticket" },
              { value: "restores", label: "restore it, unless a person has it" },
            ]}
          />
          <Input
            label="Minutes that it must stay well before"
            type="number"
            min={0}
            max={1440}
            value={minutes}
            onChange={(e) => set({ clearSeconds: Math.min(1440, Math.max(0, Number(e.target.value))) * 60 })}
          />
          <Check
            label="Then stop what signals started on it"
            checked={recovery.stopsRuns}
            onChange={(stopsRuns) => set({ stopsRuns })}
          />
        </>
      )}
    </>
  );
}

const MODES: { value: Trigger["mode"]; label: string }[] = [
  { value: "starts", label: "starts the workflow by itself" },
  { value: "asks first", label: "asks first: it stands on the desk of whoever has the ticket" },
  { value: "offers", label: "offers it on the ticket, to whoever wants to start it" },
  { value: "only notes", label: "only notes on the record that it would have started" },
];

/** The kinds of ticket that it may listen to, or open: those that its workflow is for. */
function kindsOf(is: Trigger["when"]["is"], of: string | undefined): string[] {
  if (is === "signal comes") return ["incident", "request"];
  if (is !== "time comes" && is !== "called") return ["", "incident", "change", "request"];
  return of ? [of] : ["routine", "incident", "change", "request"];
}

type TimeWhenKind = Extract<Trigger["when"], { is: "time comes" }>["kind"] | undefined;

/** What one of a kind listens to at first. */
function first(
  is: Trigger["when"]["is"],
  kind: { kind?: "incident" | "request" | "change" },
  of: TimeWhenKind,
): Trigger["when"] {
  switch (is) {
    case "field reaches":
      return { is, field: "priority", value: "P1", ...kind };
    case "approval ends":
      return { is, exit: "approved", ...kind };
    case "clock reaches":
      return { is, clock: "restore", percent: 75, ...kind };
    case "signal entered":
      return { is, sort: "fault", ...kind };
    case "signal comes":
      return { is, kind: "incident", sort: "fault", recovery: AS_USUAL };
    case "time comes":
      return everyMorning(of);
    case "called":
      return { is, kind: of ?? "routine" };
    case "created":
    case "by hand":
      return { is, ...kind };
  }
}

function Edit({
  trigger,
  names,
  workflow,
  onChange,
  onDelete,
  fired,
}: {
  trigger: Trigger;
  names: ReturnType<typeof useNames>;
  workflow: Workflow;
  onChange: (c: Partial<Trigger>) => void;
  onDelete: () => void;
  fired: number;
}) {
  const now = useNow();
  const when = trigger.when;
  const runs = useQuery({
    queryKey: ["firings", trigger.id],
    queryFn: () => api.get<RunRow[]>(`/api/triggers/${trigger.id}/firings`),
    enabled: fired > 0,
  });
  const ofItself = when.is === "time comes" || when.is === "called";
  const opens = ofItself || when.is === "signal comes";
  /** Whether it is looked at when something happens to a ticket, or comes. */
  const looked = when.is !== "by hand" && !ofItself;
  const of = (workflow.draft ?? workflow.live)?.kind;
  const kind = when.kind && when.kind !== "routine" ? { kind: when.kind } : {};
  return (
    <div className="mt-3 flex flex-col gap-3">
      <div className="grid gap-3 sm:grid-cols-2">
        <Select
          label="When"
          value={when.is}
          onChange={(picked) =>
            onChange({
              mode: "starts",
              condition: undefined,
              services: [],
              unlessEarlier: undefined,
              besides: undefined,
              when: first(picked as Trigger["when"]["is"], kind, of),
            })
          }
          options={[
            { value: "created", label: "a ticket is raised" },
            { value: "field reaches", label: "a field reaches a value" },
            { value: "approval ends", label: "an approval on a ticket ends" },
            { value: "clock reaches", label: "a clock of a ticket has run so far" },
            { value: "signal entered", label: "a signal is entered on a ticket" },
            { value: "signal comes", label: "a signal comes" },
            { value: "time comes", label: "its time comes" },
            { value: "called", label: "a program calls its address" },
            { value: "by hand", label: "a person starts it" },
          ]}
        />
        <Select
          label={
            opens ? (when.is === "signal comes" ? "It opens, where no ticket is about it" : "It opens") : "Of kind"
          }
          value={when.kind ?? ""}
          onChange={(picked) => onChange({ when: { ...when, kind: picked || undefined } as typeof when })}
          options={kindsOf(when.is, of).map((k) => ({ value: k, label: k || "any" }))}
        />
        {when.is === "time comes" && (
          <TimeWhen when={when} workflow={workflow} onChange={(next) => onChange({ when: next })} />
        )}
        {when.is === "called" && <CalledWhen when={when} onChange={(next) => onChange({ when: next })} />}
        {when.is === "signal comes" && (
          <SignalWhen when={when} names={names} onChange={(next) => onChange({ when: next })} />
        )}
        <OnTicketWhen when={when} sources={names.directory?.sources} onChange={(next) => onChange({ when: next })} />
        {when.is === "field reaches" && (
          <>
            <Select
              label="Field"
              value={when.field}
              onChange={(picked) => onChange({ when: { ...when, field: picked } })}
              options={(names.directory?.fields ?? []).map((f) => ({ value: f.name, label: f.label }))}
            />
            <Input
              label="Value"
              value={when.value}
              onChange={(e) => onChange({ when: { ...when, value: e.target.value } })}
            />
          </>
        )}
        {!ofItself && (
          <Select
            label="For the service"
            value={trigger.services[0] ?? ""}
            onChange={(picked) => onChange({ services: picked ? [picked] : [] })}
            options={[
              { value: "", label: "any" },
              ...(names.directory?.services ?? []).map((s) => ({ value: s.id, label: s.name })),
            ]}
          />
        )}
      </div>
      {looked && (
        <Select
          label="Then it"
          value={trigger.mode}
          onChange={(picked) => onChange({ mode: picked as Trigger["mode"] })}
          options={MODES}
        />
      )}
      {looked && (
        <Check
          label="Gives way: starts nothing when an earlier trigger has started something"
          checked={trigger.unlessEarlier ?? false}
          onChange={(picked) => onChange({ unlessEarlier: picked || undefined })}
        />
      )}
      {looked && (
        <Check
          label="Also while a run of this workflow is under way on the ticket"
          checked={trigger.besides ?? false}
          onChange={(picked) => onChange({ besides: picked || undefined })}
        />
      )}
      {looked && (
        <ConditionInput
          key={when.is === "signal comes" ? "signal" : "ticket"}
          label="If"
          signal={when.is === "signal comes"}
          source={when.is === "signal comes" ? when.source : undefined}
          value={trigger.condition ?? ""}
          onChange={(c) => onChange({ condition: c || undefined })}
        />
      )}
      {runs.data && (
        <div>
          <h3 className="text-sm font-semibold text-ink-2">Runs it started</h3>
          <ul className="max-h-32 overflow-auto">
            {runs.data.map((r) => (
              <li key={r.id} className="flex gap-2">
                <span className="text-ink-2" title={exact(r.startedAt)}>
                  {moment(r.startedAt, now)}
                </span>
                <Link to="/tickets/$number" params={{ number: r.ticket }} className="link">
                  {r.ticket}
                </Link>
                <span className="text-ink-2">{r.result ?? r.status}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
      <div>
        <Button look="quiet" onClick={onDelete}>
          Delete this trigger
        </Button>
      </div>
    </div>
  );
}
