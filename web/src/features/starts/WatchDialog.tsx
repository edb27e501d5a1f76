import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue, useNames } from "../../api/hooks";
import type { Field, WatchBody, WatchView } from "../../api/types";
import { Check } from "../../ui/Check";
import { Input, Select } from "../../ui/kit";
import { SpanInput } from "../designer/SpanInput";
import { keyFor, SetUpDialog } from "../setup/saving";
import { FormFields, type FormValues } from "../ticket/FormFields";
import { writeRule } from "./rule";
import { Rule, TryIt } from "./WatchRule";

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
  const lists = gives.filter((f) => f.type === "list");
  const each = draft.each;
  const looksAt = (outputs: Field[], list: string) => {
    const first = outputs.find((f) => f.type !== "list");
    return list !== ""
      ? { each: { list, known: "id" }, holds: "", calm: undefined }
      : {
          each: undefined,
          holds: first ? writeRule({ value: first.name, how: ">", than: "" }, first.type) : "",
          calm: undefined,
        };
  };
  const chosen = (next: string) => {
    const outputs = reading.find((a) => a.key === next)?.outputs.map((o) => o.field) ?? [];
    const whole = outputs.some((f) => f.type !== "list");
    set({ action: next, inputs: {}, ...looksAt(outputs, whole ? "" : (outputs[0]?.name ?? "")) });
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
              {lists.length > 0 && (
                <Select
                  label="It looks at"
                  value={each?.list ?? ""}
                  problem={at("each.list")}
                  options={[
                    { value: "", label: "what is read as a whole" },
                    ...lists.map((f) => ({ value: f.name, label: `each row of ${f.label} by itself` })),
                  ]}
                  onChange={(list) => set(looksAt(gives, list))}
                />
              )}
              {each && (
                <>
                  <Input
                    label="A row is known again by its"
                    required
                    value={each.known}
                    help="A member that no two rows share. Each row is a fault of its own; one that is gone is well."
                    onChange={(e) => set({ each: { ...each, known: e.target.value.trim() } })}
                  />
                  <Input
                    label="Its CI stands in (if anywhere)"
                    value={each.ci ?? ""}
                    help="The CI's id. By its name or another attribute: on the page of its signals, under What it means."
                    onChange={(e) => set({ each: { ...each, ci: e.target.value.trim() || undefined } })}
                  />
                </>
              )}
              <Rule
                key={`${draft.action} ${each?.list}`}
                label="Something is the matter when"
                rows={each !== undefined}
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
                  rows={each !== undefined}
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
              {!each && (
                <Input
                  label="The CI it speaks of (its id, if any)"
                  value={draft.ci ?? ""}
                  problem={at("ci")}
                  onChange={(e) => set({ ci: e.target.value.trim() || undefined })}
                />
              )}
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
