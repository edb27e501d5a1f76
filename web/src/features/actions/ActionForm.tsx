import { useState } from "react";
import type { Action, Connection, Field } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Input, Select, TextArea } from "../../ui/kit";
import { FormEditor } from "../designer/FormEditor";
import { ConnectionDialog } from "./ConnectionDialog";
import { Limits, limitsFor } from "./Limits";
import { kindOf, protocolOf } from "./protocols";
import { headersOf, otherHeaders, Paging, SentBody } from "./Sent";
import { WalkSteps } from "./WalkSteps";

const REPEATS: { value: Action["repeat"]; label: string }[] = [
  { value: "free", label: "any time: it does no harm" },
  { value: "keyed", label: "under the same key only: the other side knows it" },
  { value: "never", label: "never by itself: a person says whether it happened" },
];

/** Its parts that show what is wrong with them where they stand. */
export const PLACES = ["name", "connection", "call.method", "call.path", "timeLimit", "tries", "pause"];

/** All that an action is, to be changed (N14, N15). */
export function ActionForm({
  draft,
  set,
  connections,
  secrets,
  at,
  clash,
}: Part & {
  connections: Connection[];
  /** Names of secrets, for those who may make a connection here too; null for others. */
  secrets: string[] | null;
  /** What is wrong with a part of it. */
  at: (field: string) => string | undefined;
  /** Whether there is another action of its name. */
  clash?: boolean;
}) {
  const [connecting, setConnecting] = useState(false);
  const call = (change: Partial<Action["call"]>) => set({ call: { ...draft.call, ...change } });
  const spoken = protocolOf(connections.find((c) => c.key === draft.connection)?.base);
  // Nothing else has headers, or an address where a long job is asked after.
  const kind = kindOf(connections.find((c) => c.key === draft.connection)?.base);
  const http = kind === "HTTP";
  const connect = (connection: string) => {
    const { methods } = protocolOf(connections.find((c) => c.key === connection)?.base);
    const method = methods.includes(draft.call.method) ? draft.call.method : (methods[0] ?? draft.call.method);
    set({ connection, call: { ...draft.call, method } });
  };
  return (
    <>
      <div className="grid gap-3 sm:grid-cols-2">
        <Input
          label="Name"
          required
          value={draft.name}
          problem={clash ? "There is an action of this name." : at("name")}
          onChange={(e) => set({ name: e.target.value })}
        />
        <Select
          label="Over the connection"
          value={draft.connection}
          problem={at("connection")}
          onChange={(picked) => (picked === "+" ? setConnecting(true) : connect(picked))}
          options={[
            ...(draft.connection ? [] : [{ value: "", label: "choose…" }]),
            ...connections.map((c) => ({ value: c.key, label: c.name })),
            ...(secrets ? [{ value: "+", label: "make a connection…" }] : []),
          ]}
        />
      </div>
      <Input
        label="What it does, for those who design"
        value={draft.description}
        onChange={(e) => set({ description: e.target.value })}
      />
      <div className="grid gap-3 sm:grid-cols-[110px_1fr]">
        <Select
          label="Method"
          value={draft.call.method}
          problem={at("call.method")}
          onChange={(picked) => call({ method: picked })}
          options={spoken.methods.map((m) => ({ value: m, label: m }))}
        />
        {spoken.path && (
          <Input
            label={spoken.path.label}
            required
            problem={at("call.path")}
            value={draft.call.path}
            onChange={(e) => call({ path: e.target.value })}
            help={spoken.path.help}
          />
        )}
      </div>
      {kind === "walk" ? (
        <WalkSteps body={draft.call.body ?? undefined} onChange={(body) => call({ body })} />
      ) : http ? (
        <SentBody draft={draft} set={set} problem={at("call.body")} />
      ) : (
        <TextArea
          label={spoken.body.label}
          rows={3}
          className="font-mono text-xs"
          value={draft.call.body ?? ""}
          onChange={(e) => call({ body: e.target.value || undefined })}
          placeholder={spoken.body.example}
        />
      )}
      {http && <Headers draft={draft} set={set} />}
      {http && <Polling draft={draft} set={set} />}
      {http && <Paging draft={draft} set={set} />}
      <p className="text-sm text-ink-2">{spoken.answers}</p>
      <FormEditor
        title="Inputs"
        fields={draft.inputs}
        prefix="input."
        add="Add an input"
        onChange={(inputs) => set({ inputs, limits: limitsFor(inputs, draft.limits) })}
      />
      <Limits draft={draft} set={set} at={at} />
      <Outputs draft={draft} set={set} http={http} />
      <Results draft={draft} set={set} />
      <div className="grid gap-3 sm:grid-cols-3">
        <Input
          label="Time limit"
          required
          value={String(draft.timeLimit)}
          problem={at("timeLimit")}
          onChange={(e) => set({ timeLimit: e.target.value })}
        />
        <Input
          label="Tries"
          type="number"
          min={1}
          max={20}
          required
          value={draft.tries}
          problem={at("tries")}
          onChange={(e) => set({ tries: Number(e.target.value) })}
        />
        <Input
          label="Pause before the second"
          required
          value={String(draft.pause)}
          problem={at("pause")}
          onChange={(e) => set({ pause: e.target.value })}
        />
      </div>
      <Select
        label="When nobody knows whether it happened, it is repeated"
        value={draft.repeat}
        onChange={(picked) => set({ repeat: picked as Action["repeat"] })}
        options={REPEATS}
      />
      <Check
        label="It changes something outside, so an approval before it guards it"
        checked={draft.changesWorld}
        onChange={(picked) => set({ changesWorld: picked })}
      />

      {connecting && secrets && (
        <ConnectionDialog
          secrets={secrets}
          onClose={() => setConnecting(false)}
          onMade={(connection) => set({ connection })}
        />
      )}
    </>
  );
}

interface Part {
  draft: Action;
  set: (change: Partial<Action>) => void;
}

/** Outputs for changed fields: each keeps its place in the answer, and one that was never placed follows its name. */
export function outputsOf(changed: Field[], before: Action["outputs"]): Action["outputs"] {
  return changed.map((field, i) => {
    const same = before.find((o) => o.field.name === field.name);
    const renamed = changed.length === before.length ? before[i] : undefined;
    const placed = renamed && renamed.pointer !== `/${renamed.field.name}` ? renamed.pointer : undefined;
    return { field, pointer: same?.pointer ?? placed ?? `/${field.name}` };
  });
}

/** What is sent along with a call, by name. */
function Headers({ draft, set }: Part) {
  // As rows: while a name is typed, two may be the same for a moment, and none may be lost by that.
  const [headers, setHeaders] = useState<[string, string][]>(() => otherHeaders(draft.call.headers));
  const keep = (next: [string, string][]) => {
    setHeaders(next);
    set({ call: { ...draft.call, headers: headersOf(next, draft.call.headers) } });
  };
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold text-ink-2">Headers</legend>
      {headers.map(([name, value], i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a header is renamed while it is typed
        <div key={i} className="mb-1 grid grid-cols-[1fr_2fr_auto] items-end gap-2">
          <Input
            label={`Header ${i + 1}`}
            required
            value={name}
            placeholder="Idempotency-Key"
            onChange={(e) => keep(headers.map((h, j) => (j === i ? [e.target.value, value] : h)))}
          />
          <Input
            label="Value"
            required
            value={value}
            placeholder="{{ call.key }}"
            onChange={(e) => keep(headers.map((h, j) => (j === i ? [name, e.target.value] : h)))}
          />
          <Button look="quiet" aria-label={`Leave out ${name}`} onClick={() => keep(headers.filter((_, j) => j !== i))}>
            ✕
          </Button>
        </div>
      ))}
      <Button
        onClick={() =>
          keep([
            ...headers,
            headers.some(([n]) => n === "Idempotency-Key") ? ["", ""] : ["Idempotency-Key", "{{ call.key }}"],
          ])
        }
      >
        Add a header
      </Button>
    </fieldset>
  );
}

/** A long job is asked after until it is done. */
function Polling({ draft, set }: Part) {
  const poll = draft.call.poll;
  const keep = (next: Action["call"]["poll"]) => set({ call: { ...draft.call, poll: next } });
  return (
    <fieldset>
      <legend className="sr-only">A long job</legend>
      <Check
        label="It takes long: its answer says where to ask until it is done"
        checked={poll !== undefined}
        onChange={(picked) =>
          keep(
            picked
              ? { linkAt: "/job", stateAt: "/state", doneWhen: "done", failedWhen: "failed", every: "5 s" }
              : undefined,
          )
        }
      />
      {poll && (
        <div className="mt-1 grid gap-2 sm:grid-cols-5">
          <Input
            label="Where to ask"
            required
            value={poll.linkAt}
            onChange={(e) => keep({ ...poll, linkAt: e.target.value })}
          />
          <Input
            label="Its state"
            required
            value={poll.stateAt}
            onChange={(e) => keep({ ...poll, stateAt: e.target.value })}
          />
          <Input
            label="is done when"
            required
            value={poll.doneWhen}
            onChange={(e) => keep({ ...poll, doneWhen: e.target.value })}
          />
          <Input
            label="failed when"
            required
            value={poll.failedWhen}
            onChange={(e) => keep({ ...poll, failedWhen: e.target.value })}
          />
          <Input
            label="How far it is (0 to 100)"
            placeholder="/percent"
            value={poll.percentAt ?? ""}
            onChange={(e) => keep({ ...poll, percentAt: e.target.value || undefined })}
          />
          <Input
            label="What it is at"
            placeholder="/said"
            value={poll.sayingAt ?? ""}
            onChange={(e) => keep({ ...poll, sayingAt: e.target.value || undefined })}
          />
          <Input
            label="Asked every"
            required
            value={String(poll.every)}
            onChange={(e) => keep({ ...poll, every: e.target.value })}
          />
          <div className="sm:col-span-5">
            <Check
              label="It ends when DELETE is sent to where it is asked for: stopping the run, or the time limit, calls it off"
              checked={poll.cancels === true}
              onChange={(cancels) => keep({ ...poll, cancels: cancels || undefined })}
            />
          </div>
        </div>
      )}
    </fieldset>
  );
}

/** What the answer is read for, each by a JSON Pointer. */
function Outputs({ draft, set, http }: Part & { http: boolean }) {
  const fields = draft.outputs.map((o) => o.field);
  const keep = (changed: Field[]) => set({ outputs: outputsOf(changed, draft.outputs) });
  return (
    <div>
      <FormEditor title="Outputs" fields={fields} prefix="output " add="Add an output" onChange={keep} />
      {draft.outputs.map((o, i) => (
        <Input
          key={o.field.name}
          label={`Where ${o.field.label} stands in the answer (JSON Pointer, RFC 6901${http ? ", or of XML xpath:…" : ""})`}
          required
          value={o.pointer}
          onChange={(e) =>
            set({ outputs: draft.outputs.map((x, j) => (j === i ? { ...x, pointer: e.target.value } : x)) })
          }
        />
      ))}
    </div>
  );
}

/** Results beside ok and failed, such as "already so". */
function Results({ draft, set }: Part) {
  const change = (i: number, part: Partial<Action["results"][number]>) =>
    set({ results: draft.results.map((r, j) => (j === i ? { ...r, ...part } : r)) });
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold text-ink-2">Further results, each a way out of its own</legend>
      {draft.results.map((r, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a row has no other name than its place
        <div key={i} className="mb-1 grid grid-cols-[1fr_1fr_1fr_auto] items-end gap-2">
          <Input
            label="Result"
            required
            value={r.name}
            placeholder="already so"
            onChange={(e) => change(i, { name: e.target.value })}
          />
          <Input
            label="when"
            required
            value={r.pointer}
            placeholder="/state or http:status"
            title="A place in the answer, such as /state. Of a web address also http:status, for an answer such as 404."
            onChange={(e) => change(i, { pointer: e.target.value })}
          />
          <Input
            label="is"
            required
            value={r.equal}
            placeholder="closed"
            onChange={(e) => change(i, { equal: e.target.value })}
          />
          <Button
            look="quiet"
            aria-label={`Leave out ${r.name}`}
            onClick={() => set({ results: draft.results.filter((_, j) => j !== i) })}
          >
            ✕
          </Button>
        </div>
      ))}
      <Button onClick={() => set({ results: [...draft.results, { name: "", pointer: "/", equal: "" }] })}>
        Add a result
      </Button>
    </fieldset>
  );
}
