import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { useCatalogue, useWorkflow, useWorkflows } from "../../api/hooks";
import type { Step, StepOf, Version } from "../../api/types";
import { layoutRoute } from "../../route/layout";
import { allSteps, routeSteps } from "../../route/ofVersion";
import { gutterWidth, RouteGutter, SMALL } from "../../route/RouteGutter";
import { Select } from "../../ui/kit";
import { ValueEditor } from "./ValueEditor";

/** The workflow that is called, and what it is given. */
export function CallEditor({
  step,
  version,
  onChange,
}: {
  step: StepOf<"call">;
  version: Version;
  onChange: (s: Step) => void;
}) {
  const workflows = useWorkflows().data ?? [];
  const called = useWorkflow(step.workflow).data?.live;
  return (
    <>
      <Select
        label="Workflow"
        value={step.workflow}
        onChange={(picked) => onChange({ ...step, workflow: picked, inputs: {} })}
        options={[
          ...(workflows.some((w) => w.key === step.workflow)
            ? []
            : [{ value: step.workflow, label: `${step.workflow} (unknown)` }]),
          ...workflows.filter((w) => w.liveVersion && !w.retired).map((w) => ({ value: w.key, label: w.name })),
        ]}
      />
      <Elsewhere step={step} version={version} onChange={onChange} />
      {called?.startForm.map((f) => (
        <ValueEditor
          key={`${step.workflow}.${f.name}`}
          label={f.required ? `${f.label} (needed)` : f.label}
          of={f.label}
          field={f}
          version={version}
          kept={{ value: step.inputs[f.name] ?? "" }}
          onChange={({ value }) => onChange({ ...step, inputs: { ...step.inputs, [f.name]: value ?? "" } })}
        />
      ))}
      {called && called.results.length > 0 && (
        <p className="text-sm text-ink-2">
          Gives {called.results.map((r) => `steps.${step.id}.${r.field.name}`).join(", ")}
        </p>
      )}
      {called && <CalledRoute called={called} />}
    </>
  );
}

type On = NonNullable<StepOf<"call">["on"]>;

const THIS = "this";

/** The ticket on which the called workflow runs: this one, a new one, or one that is there. */
function Elsewhere({
  step,
  version,
  onChange,
}: {
  step: StepOf<"call">;
  version: Version;
  onChange: (s: Step) => void;
}) {
  const paths = useCatalogue().data?.paths ?? [];
  const fields = paths
    .filter((p) => p.path.startsWith("ticket.") && !["ticket.number", "ticket.kind", "ticket.state"].includes(p.path))
    .map((p) => p.field);
  const labelOf = (name: string) => fields.find((f) => f.name === name)?.label ?? name;
  const { on } = step;
  const choose = (word: string): On | undefined =>
    word === THIS
      ? undefined
      : word === "known"
        ? { is: "known", number: "" }
        : { is: "new", raises: word as Extract<On, { is: "new" }>["raises"], fields: {} };
  return (
    <>
      <Select
        label="On"
        value={!on ? THIS : on.is === "known" ? "known" : on.raises}
        onChange={(picked) => onChange({ ...step, on: choose(picked) })}
        options={[
          { value: THIS, label: "this ticket" },
          { value: "incident", label: "a new incident" },
          { value: "change", label: "a new change" },
          { value: "request", label: "a new request" },
          { value: "known", label: "another ticket" },
        ]}
      />
      {on?.is === "known" && (
        <ValueEditor
          label="Its number"
          of="Its number"
          field={{ type: "text" }}
          version={version}
          kept={{ value: on.number }}
          onChange={({ value }) => onChange({ ...step, on: { ...on, number: value ?? "" } })}
        />
      )}
      {on?.is === "new" && (
        <>
          {Object.entries(on.fields).map(([name, value]) => (
            <ValueEditor
              key={name}
              label={`Its ${labelOf(name)}`}
              of={labelOf(name)}
              field={fields.find((f) => f.name === name) ?? { type: "any value" }}
              version={version}
              kept={{ value }}
              onChange={(kept) =>
                onChange({ ...step, on: { ...on, fields: { ...on.fields, [name]: kept.value ?? "" } } })
              }
            />
          ))}
          <Select
            label="Give it a"
            value=""
            onChange={(picked) =>
              picked && onChange({ ...step, on: { ...on, fields: { ...on.fields, [picked]: '""' } } })
            }
            options={[
              { value: "", label: "field…" },
              ...fields.filter((f) => !(f.name in on.fields)).map((f) => ({ value: f.name, label: f.label })),
            ]}
          />
          <p className="text-sm text-ink-2">
            Requester, service and CI are this ticket’s unless given, the title is this step’s name. Gives steps.
            {step.id}
            .ticket
          </p>
        </>
      )}
    </>
  );
}

/** The route of the workflow that is called, opened where it is called. */
function CalledRoute({ called }: { called: Version }) {
  const [open, setOpen] = useState(false);
  const actions = useCatalogue().data?.actions;
  if (!actions) return null;
  const layout = layoutRoute(routeSteps(called, actions));
  const steps = new Map(allSteps(called.body.steps).map((s) => [s.id, s]));
  const kinds = new Map([...steps].map(([id, s]) => [id, s.kind]));
  return (
    <section aria-label={`Route of ${called.name}`}>
      <button type="button" className="link text-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "fold its route" : `open its route, ${steps.size} steps`}
      </button>{" "}
      <Link to="/workflows/$key" params={{ key: called.key }} className="link text-sm">
        go there
      </Link>
      {open && (
        <div className="relative mt-2 max-h-80 overflow-auto rounded-lg border border-hairline p-2">
          <div className="relative">
            <RouteGutter layout={layout} kinds={kinds} sizes={SMALL} />
            <ol>
              {layout.rows.map((row) => (
                <li
                  key={row.id}
                  className="flex items-center truncate text-sm"
                  style={{ height: SMALL.rowHeight, paddingLeft: gutterWidth(layout, SMALL) + 2 }}
                >
                  {row.lane ?? steps.get(row.id)?.name}
                </li>
              ))}
            </ol>
          </div>
        </div>
      )}
    </section>
  );
}
