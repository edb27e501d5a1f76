import { useCatalogue } from "../../api/hooks";
import type { Step, StepOf, Version } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Input, Select } from "../../ui/kit";
import { Inputs } from "./ActionInputs";
import { ConditionInput } from "./ConditionInput";
import { PartyPicker } from "./parties";
import { knownPaths } from "./paths";
import type { Typed } from "./Said";
import { SpanInput } from "./SpanInput";
import { TAKEN, ValueOf } from "./ValueEditor";

/** What undoes a step when its stage is put back. */
export function PutBackEditor({
  step,
  version,
  onChange,
}: {
  step: StepOf<"automation">;
  version: Version;
  onChange: (s: Step) => void;
}) {
  const actions = useCatalogue().data?.actions ?? [];
  const back = step.putBack;
  return (
    <div className="flex flex-col gap-2 border-t border-hairline pt-3">
      <Select
        label="Put back with"
        value={back?.action ?? ""}
        onChange={(picked) =>
          onChange({
            ...step,
            putBack: picked
              ? {
                  action: picked,
                  inputs: {},
                  always: back?.always ?? false,
                  repeatable: back?.repeatable ?? false,
                }
              : undefined,
          })
        }
        options={[
          { value: "", label: "nothing undoes it" },
          ...actions.map((a) => ({ value: a.key, label: `${a.name} (${a.key})` })),
        ]}
      />
      {back && (
        <>
          <Inputs
            action={back.action}
            inputs={back.inputs}
            version={version}
            onChange={(inputs) => onChange({ ...step, putBack: { ...back, inputs } })}
          />
          <Check
            label="On success too: it is switched off for a time only"
            checked={back.always}
            onChange={(picked) => onChange({ ...step, putBack: { ...back, always: picked } })}
          />
        </>
      )}
    </div>
  );
}

/** What is judged by a rule where nobody knows of what type it is: most are numbers, and the rest is an expression. */
const JUDGED_UNKNOWN: Typed = { type: "number" };

const COMPARISONS = ["is", "is not", "within", "above", "at least", "below", "at most", "contains", "holds"] as const;

/** The rules of a check, how long it may take to settle, and who looks when it does not hold. */
export function CheckEditor({
  step,
  version,
  onChange,
}: {
  step: StepOf<"check">;
  version: Version;
  onChange: (s: Step) => void;
}) {
  const catalogue = useCatalogue().data;
  const actions = catalogue?.actions ?? [];
  const known = knownPaths(version, catalogue);
  const set = (i: number, change: Partial<(typeof step.rules)[number]>) =>
    onChange({ ...step, rules: step.rules.map((r, j) => (j === i ? { ...r, ...change } : r)) });
  return (
    <>
      <Select
        label="Measures first with"
        value={step.measure ?? ""}
        onChange={(picked) => onChange({ ...step, measure: picked || undefined, inputs: {} })}
        options={[
          { value: "", label: "nothing: it judges what is known" },
          ...actions.map((a) => ({ value: a.key, label: `${a.name} (${a.key})` })),
        ]}
      />
      {step.measure && (
        <Inputs
          action={step.measure}
          inputs={step.inputs}
          version={version}
          onChange={(inputs) => onChange({ ...step, inputs })}
        />
      )}
      {step.rules.map((r, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a rule's name is what is being typed
        <div key={i} className="flex flex-col gap-2 rounded-lg border border-hairline p-2">
          <Input label={`Rule ${i + 1}`} value={r.name} onChange={(e) => set(i, { name: e.target.value })} />
          <ValueOf
            label="What is judged"
            of={`Rule ${i + 1}`}
            field={TAKEN}
            version={version}
            value={r.value}
            onChange={(value) => set(i, { value })}
          />
          <Select
            label="It should be"
            value={r.compare}
            onChange={(picked) => set(i, { compare: picked as typeof r.compare })}
            options={COMPARISONS.map((c) => ({ value: c, label: c }))}
          />
          {r.compare === "within" && (
            <Input
              label="percent of"
              type="number"
              min={0}
              value={r.share ?? 5}
              onChange={(e) => set(i, { share: Number(e.target.value) })}
            />
          )}
          {r.compare !== "holds" && (
            <ValueOf
              label="compared with"
              of={`Rule ${i + 1} against`}
              field={known.find((k) => k.path === r.value)?.field ?? JUDGED_UNKNOWN}
              version={version}
              value={r.against ?? ""}
              onChange={(against) => set(i, { against: against || undefined })}
            />
          )}
          <Select
            label="Meant to"
            value={r.sense ?? "should turn good"}
            onChange={(picked) => set(i, { sense: picked as typeof r.sense })}
            options={[
              { value: "should turn good", label: "turn good" },
              { value: "should stay", label: "stay as it was" },
            ]}
          />
          <Button look="quiet" onClick={() => onChange({ ...step, rules: step.rules.filter((_, j) => j !== i) })}>
            Leave it out
          </Button>
        </div>
      ))}
      <Button
        onClick={() =>
          onChange({
            ...step,
            rules: [
              ...step.rules,
              { name: `Rule ${step.rules.length + 1}`, value: "", compare: "is", sense: "should turn good" },
            ],
          })
        }
      >
        Add a rule
      </Button>
      <SpanInput label="Settles within" value={step.settle} onChange={(settle) => onChange({ ...step, settle })} />
      {step.settle && (
        <SpanInput label="Judged every" value={step.every} onChange={(every) => onChange({ ...step, every })} />
      )}
      <PartyPicker
        label="Reviewed by"
        value={step.review}
        none="nobody: it fails"
        onChange={(review) => onChange({ ...step, review })}
      />
    </>
  );
}

/** The lanes of a fork, and when it is joined. */
export function ForkEditor({
  step,
  version,
  onChange,
}: {
  step: StepOf<"fork">;
  version: Version;
  onChange: (s: Step) => void;
}) {
  const set = (i: number, change: Partial<(typeof step.lanes)[number]>) =>
    onChange({ ...step, lanes: step.lanes.map((l, j) => (j === i ? { ...l, ...change } : l)) });
  return (
    <>
      {step.lanes.map((l, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a lane's name is what is being typed
        <div key={i} className="flex flex-col gap-2 rounded-lg border border-hairline p-2">
          <Input label={`Lane ${i + 1}`} value={l.name} onChange={(e) => set(i, { name: e.target.value })} />
          <ConditionInput
            label="opened if (always when empty)"
            version={version}
            value={l.when ?? ""}
            onChange={(when) => set(i, { when: when || undefined })}
          />
          {step.lanes.length > 1 && (
            <Button
              look="quiet"
              onClick={() => onChange({ ...step, first: undefined, lanes: step.lanes.filter((_, j) => j !== i) })}
            >
              Leave it out
            </Button>
          )}
        </div>
      ))}
      <Button
        onClick={() => {
          const id = `${step.id}End${step.lanes.length + 1}`;
          onChange({
            ...step,
            lanes: [
              ...step.lanes,
              {
                name: `Lane ${step.lanes.length + 1}`,
                body: { steps: [{ kind: "end", id, name: "Done", result: "done", ending: "line" }] },
              },
            ],
          });
        }}
      >
        Add a lane
      </Button>
      <Input
        label="Joined when this many are done (all when empty)"
        type="number"
        min={1}
        max={step.lanes.length}
        value={step.first ?? ""}
        onChange={(e) => onChange({ ...step, first: e.target.value === "" ? undefined : Number(e.target.value) })}
      />
    </>
  );
}
