import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue } from "../../api/hooks";
import type { Automation, StepOf, Version } from "../../api/types";
import { Input, Select } from "../../ui/kit";
import { ActionDialog } from "../actions/ActionDialog";
import { limitWords } from "../actions/Limits";
import { administers, useSession } from "../signin/session";
import { SpanInput } from "./SpanInput";
import { ValueEditor } from "./ValueEditor";

type Acting = StepOf<"automation"> | StepOf<"capture">;

/** The action a machine carries out, with an expression for each of its inputs. */
export function ActionInputs({
  step,
  version,
  onChange,
}: {
  step: Acting;
  version: Version;
  onChange: (change: Partial<Pick<Acting, "action" | "inputs" | "timeLimit" | "tries">>) => void;
}) {
  const actions = useCatalogue().data?.actions ?? [];
  const [making, setMaking] = useState(false);
  const action = actions.find((a) => a.key === step.action);
  return (
    <>
      <Select
        label="Action"
        value={step.action}
        onChange={(picked) => (picked === "+" ? setMaking(true) : onChange({ action: picked, inputs: {} }))}
        options={[
          ...(action ? [] : [{ value: step.action, label: `${step.action} (unknown)` }]),
          ...actions.map((a) => ({ value: a.key, label: `${a.name} (${a.key})` })),
          { value: "+", label: "make an action…" },
        ]}
      />
      {making && <NewAction onClose={() => setMaking(false)} onMade={(key) => onChange({ action: key, inputs: {} })} />}
      {action && (
        <p className="text-sm text-ink-2">
          {action.description}{" "}
          {action.repeat === "never"
            ? "Never repeated by itself."
            : action.repeat === "keyed"
              ? "Repeated only under its key."
              : ""}
        </p>
      )}
      <Inputs action={step.action} inputs={step.inputs} version={version} onChange={(inputs) => onChange({ inputs })} />
      {action && action.outputs.length > 0 && (
        <p className="text-sm text-ink-2">
          Gives {action.outputs.map((o) => `steps.${step.id}.${o.field.name}`).join(", ")}
        </p>
      )}
      <SpanInput
        label={`Time limit (${action?.timeLimit ?? "the action’s own"})`}
        value={step.timeLimit}
        onChange={(timeLimit) => onChange({ timeLimit })}
      />
      <Input
        label={`Tries (${action?.tries ?? "the action’s own"})`}
        type="number"
        min={1}
        max={20}
        value={step.tries ?? ""}
        onChange={(e) => onChange({ tries: e.target.value === "" ? undefined : Number(e.target.value) })}
      />
    </>
  );
}

/** An action that is needed and not there yet is made in place, with its connection if need be (N28). */
function NewAction({ onClose, onMade }: { onClose: () => void; onMade: (key: string) => void }) {
  const { session } = useSession();
  const automation = useQuery({
    queryKey: ["automation"],
    queryFn: () => api.get<Automation>("/api/automation"),
  });
  if (!automation.data) return null;
  return (
    <ActionDialog
      connections={automation.data.connections}
      taken={automation.data.actions.map((a) => a.key)}
      secrets={administers(session) ? automation.data.secrets : null}
      onClose={onClose}
      onMade={onMade}
    />
  );
}

/** A value for each input of an action. */
export function Inputs({
  action: key,
  inputs,
  version,
  onChange,
}: {
  action: string;
  inputs: Record<string, string>;
  version: Version;
  onChange: (inputs: Record<string, string>) => void;
}) {
  const action = useCatalogue().data?.actions.find((a) => a.key === key);
  return action?.inputs.map((f) => (
    <div key={`${key}.${f.name}`}>
      <ValueEditor
        label={f.required ? `${f.label} (needed)` : f.label}
        of={f.label}
        field={f}
        version={version}
        kept={{ value: inputs[f.name] ?? "" }}
        onChange={({ value }) =>
          onChange(
            value
              ? { ...inputs, [f.name]: value }
              : Object.fromEntries(Object.entries(inputs).filter(([name]) => name !== f.name)),
          )
        }
      />
      {action.limits?.[f.name] && (
        <p className="mt-0.5 text-sm text-ink-2">only {limitWords(action.limits[f.name] ?? {})}</p>
      )}
    </div>
  ));
}
