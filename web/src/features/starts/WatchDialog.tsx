import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue, useNames } from "../../api/hooks";
import type { Field, WatchBody, WatchReading, WatchView } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Input, Select, Trouble } from "../../ui/kit";
import { SpanInput } from "../designer/SpanInput";
import { keyFor, SetUpDialog } from "../setup/saving";
import { FormFields, type FormValues } from "../ticket/FormFields";
import { HOW, readRule, writeRule } from "./rule";

const NEW: WatchBody = {
  name: "",
  on: true,
  action: "",
  inputs: {},
  every: "5 min",
  holds: "",
  severity: "minor",
  otherwise: "incident",
};

/** What is looked at, how often, when something is the matter, and what becomes of it; tried before it counts. */
export function WatchDialog({
  view,
  onClose,
  onMade,
}: {
  view?: WatchView;
  onClose: () => void;
  onMade?: (key: string) => void;
}) {
  const names = useNames();
  const [draft, setDraft] = useState<WatchBody>(() => {
    if (!view) return NEW;
    const { key: _, ...watch } = view.watch;
    return { ...watch, otherwise: view.otherwise, group: view.group };
  });
  const set = (change: Partial<WatchBody>) => setDraft({ ...draft, ...change });
  const key = view?.watch.key ?? keyFor(draft.name);
  const reading = (useCatalogue().data?.actions ?? []).filter((a) => !a.changesWorld && a.repeat === "free");
  const action = reading.find((a) => a.key === draft.action);
  const gives = action?.outputs.map((o) => o.field) ?? [];
  const chosen = (next: string) => {
    const first = reading.find((a) => a.key === next)?.outputs.find((o) => o.field.type !== "list")?.field;
    set({
      action: next,
      inputs: {},
      holds: first ? writeRule({ value: first.name, how: ">", than: "" }, first.type) : "",
      calm: undefined,
    });
  };
  const save = async () => {
    await api.put(`/api/watches/${key}`, draft);
    onMade?.(key);
  };
  return (
    <SetUpDialog
      title={view ? `Change the watch “${view.watch.name}”` : "A new watch"}
      verb={view ? "Save" : "Make it"}
      save={save}
      stale={["watches", "watch", "sources"]}
      onClose={onClose}
      wide
    >
      {(at) => (
        <div className="grid gap-3 sm:grid-cols-2">
          <div className="sm:col-span-2">
            <Input
              label="What is the matter when it holds"
              required
              autoFocus
              value={draft.name}
              problem={at("name")}
              help="It is the title of what it opens, such as: A kiosk has not been heard for 20 minutes."
              onChange={(e) => set({ name: e.target.value })}
            />
          </div>
          <Select
            label="It looks by"
            value={draft.action}
            placeholder="an action that only reads…"
            problem={at("action")}
            options={reading.map((a) => ({ value: a.key, label: a.name }))}
            onChange={chosen}
          />
          <SpanInput label="Every" value={draft.every} onChange={(every) => set({ every: every ?? "5 min" })} />
          {action && action.inputs.length > 0 && (
            <div className="sm:col-span-2">
              <FormFields
                fields={action.inputs}
                values={draft.inputs as FormValues}
                onChange={(inputs) => set({ inputs })}
              />
            </div>
          )}
          {action && (
            <>
              <Rule
                label="Something is the matter when"
                rule={draft.holds}
                gives={gives}
                problem={at("holds")}
                onChange={(holds) => set({ holds })}
              />
              <SpanInput
                label="For at least (empty: at once)"
                value={draft.atLeast}
                onChange={(atLeast) => set({ atLeast })}
              />
              <Check
                label="It is well again only when another rule holds"
                checked={draft.calm !== undefined}
                onChange={(own) => set({ calm: own ? draft.holds : undefined })}
              />
              {draft.calm !== undefined && (
                <Rule
                  label="It is well again when"
                  rule={draft.calm}
                  gives={gives}
                  problem={at("calm")}
                  onChange={(calm) => set({ calm })}
                />
              )}
              <Select
                label="How bad it is"
                value={draft.severity}
                options={["critical", "major", "minor", "warning"].map((s) => ({ value: s, label: s }))}
                onChange={(severity) => set({ severity: severity as WatchBody["severity"] })}
              />
              <Input
                label="The CI it speaks of (its id, if any)"
                value={draft.ci ?? ""}
                problem={at("ci")}
                onChange={(e) => set({ ci: e.target.value.trim() || undefined })}
              />
              <SpanInput
                label="Say it too when it could not be read for (empty: never)"
                value={draft.unreadAfter}
                onChange={(unreadAfter) => set({ unreadAfter })}
              />
              <Select
                label="Where no trigger takes it up, it"
                value={draft.otherwise}
                options={[
                  { value: "incident", label: "opens an incident" },
                  { value: "kept", label: "is kept under Signals" },
                ]}
                onChange={(otherwise) => set({ otherwise: otherwise as WatchBody["otherwise"] })}
              />
              <Select
                label="Group that gets the incident"
                value={draft.group ?? ""}
                options={[
                  { value: "", label: "nobody in particular" },
                  ...(names.directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })),
                ]}
                onChange={(group) => set({ group: group || undefined })}
              />
              <Check label="It looks" checked={draft.on} onChange={(on) => set({ on })} />
              <TryIt path={`/api/watches/${key || "new"}/readings`} draft={draft} gives={gives} />
            </>
          )}
        </div>
      )}
    </SetUpDialog>
  );
}

/** A rule over what is read: one comparison that is chosen, or an expression. */
function Rule({
  label,
  rule,
  gives,
  problem,
  onChange,
}: {
  label: string;
  rule: string;
  gives: Field[];
  problem?: string;
  onChange: (rule: string) => void;
}) {
  const [code, setCode] = useState(() => rule !== "" && readRule(rule) === undefined);
  const compared = readRule(rule) ?? { value: gives[0]?.name ?? "", how: ">", than: "" };
  const typeOf = (name: string) => gives.find((g) => g.name === name)?.type;
  const set = (change: Partial<typeof compared>) => {
    const next = { ...compared, ...change };
    onChange(writeRule(next, typeOf(next.value)));
  };
  return (
    <fieldset className="sm:col-span-2">
      <legend className="mb-1 text-sm font-semibold text-ink-2">{label}</legend>
      {code ? (
        <Input
          label={`${label}: expression`}
          hideLabel
          required
          problem={problem}
          value={rule}
          placeholder={gives.map((g) => `read.${g.name}`).join(", ")}
          onChange={(e) => onChange(e.target.value)}
        />
      ) : (
        <div className="flex flex-wrap gap-2">
          <div className="w-56">
            <Select
              label={`${label}: what`}
              hideLabel
              value={compared.value}
              problem={problem}
              options={gives.map((g) => ({ value: g.name, label: g.label }))}
              onChange={(value) => set({ value })}
            />
          </div>
          <div className="w-36">
            <Select
              label={`${label}: how`}
              hideLabel
              value={compared.how}
              options={HOW}
              onChange={(how) => set({ how })}
            />
          </div>
          <div className="w-32">
            <Input
              label={`${label}: than`}
              hideLabel
              required
              value={compared.than}
              onChange={(e) => set({ than: e.target.value })}
            />
          </div>
        </div>
      )}
      <button type="button" className="link mt-1 text-xs" onClick={() => setCode(!code)}>
        {code ? "choose it" : "say it by an expression"}
      </button>
    </fieldset>
  );
}

/** Looks once, and says what was read and whether it holds. */
function TryIt({ path, draft, gives }: { path: string; draft: WatchBody; gives: Field[] }) {
  const reading = useMutation({
    mutationFn: () => api.post<WatchReading>(path, { ...draft, name: draft.name || "new" }),
  });
  const r = reading.data;
  return (
    <div className="sm:col-span-2">
      <Button disabled={reading.isPending} onClick={() => reading.mutate()}>
        {reading.isPending ? "It looks…" : "Look once"}
      </Button>
      {reading.isError && <Trouble error={reading.error} />}
      {r && (
        <p role="status" className="mt-2 rounded border border-hairline bg-raised p-2 text-sm">
          <strong className={r.said === "holds" ? "text-soon" : r.said === "could not be read" ? "text-late" : ""}>
            It {r.said}.
          </strong>{" "}
          {r.why ??
            gives
              .filter((g) => r.values[g.name] !== undefined && g.type !== "list")
              .map((g) => `${g.label}: ${String(r.values[g.name])}`)
              .join(", ")}
        </p>
      )}
    </div>
  );
}
