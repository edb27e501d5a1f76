import { useCatalogue } from "../../api/hooks";
import type { Finding, Step, Version } from "../../api/types";
import { KIND_WORDS } from "../../route/Glyph";
import { Button, Check, Input, Select } from "../../ui/kit";
import { Exits } from "./ExitsEditor";
import { ExpressionInput } from "./ExpressionInput";
import { FormEditor } from "./FormEditor";
import { LadderPicker } from "./LadderPicker";
import { renameExit } from "./model";
import { PartiesPicker, PartyPicker } from "./parties";

interface Props {
  step: Step;
  version: Version;
  findings: Finding[];
  readOnly: boolean;
  onChange: (step: Step) => void;
  onRelead: (exit: string, to: string | undefined) => void;
  onNewEnd: (exit: string) => void;
  onDelete: () => void;
}

/** Everything about the selected step, editable in place. */
export function Inspector({ step, version, findings, readOnly, onChange, onRelead, onNewEnd, onDelete }: Props) {
  const catalogue = useCatalogue();
  const actions = catalogue.data?.actions ?? [];
  return (
    <fieldset disabled={readOnly} className="flex flex-col gap-3.5">
      <legend className="sr-only">{step.name}</legend>
      <div>
        <Input label="Name" hideLabel value={step.name} onChange={(e) => onChange({ ...step, name: e.target.value })} />
        <p className="mt-1 text-xs text-ink-2">
          {KIND_WORDS[step.kind]} · <code className="font-mono">steps.{step.id}</code>
        </p>
      </div>
      {findings.map((f) => (
        <p
          key={f.message}
          className={`border-t-2 pt-1.5 text-sm ${f.severity === "blocks" ? "border-late text-late" : "border-soon text-soon"}`}
        >
          {f.message}
        </p>
      ))}
      <Kind step={step} version={version} onChange={onChange} />
      {step.kind !== "end" && (
        <Exits
          step={step}
          version={version}
          actions={actions}
          onChange={onChange}
          onRelead={onRelead}
          onNewEnd={onNewEnd}
        />
      )}
      <div>
        <Button look="quiet" onClick={onDelete}>
          Delete this step
        </Button>
      </div>
    </fieldset>
  );
}

function Kind({ step, version, onChange }: { step: Step; version: Version; onChange: (s: Step) => void }) {
  const catalogue = useCatalogue();
  switch (step.kind) {
    case "task":
      return (
        <>
          <ExpressionInput
            label="Said to the doer"
            kind="text"
            rows={3}
            version={version}
            value={step.instructions ?? ""}
            onChange={(t) => onChange({ ...step, instructions: t || undefined })}
            help="{{ ci.name }} inserts a value."
          />
          <PartyPicker label="Who" value={step.assignee} onChange={(p) => p && onChange({ ...step, assignee: p })} />
          <PartyPicker
            label="Overseen by"
            value={step.overseer}
            none="nobody apart"
            onChange={(p) => onChange({ ...step, overseer: p })}
          />
          <SpanInput label="Until" value={step.due} onChange={(due) => onChange({ ...step, due })} />
          <LadderPicker value={step.ladder} onChange={(ladder) => onChange({ ...step, ladder })} />
          <FormEditor
            title="Asked with it"
            fields={step.form ?? []}
            onChange={(form) => onChange({ ...step, form: form.length ? form : undefined })}
          />
        </>
      );
    case "approval":
      return (
        <>
          <ExpressionInput
            label="What is asked"
            kind="text"
            rows={2}
            version={version}
            value={step.question ?? ""}
            onChange={(t) => onChange({ ...step, question: t || undefined })}
          />
          <ExpressionInput
            label="A yes sets off"
            kind="text"
            version={version}
            value={step.setsOff ?? ""}
            onChange={(t) => onChange({ ...step, setsOff: t || undefined })}
            help="For the button: Approve and …"
          />
          <PartiesPicker label="Who decides" value={step.asked} onChange={(asked) => onChange({ ...step, asked })} />
          <div className="flex gap-2">
            <div className="flex-1">
              <Select
                label="Rule"
                value={step.rule.rule}
                onChange={(e) =>
                  onChange({
                    ...step,
                    rule:
                      e.target.value === "at least"
                        ? { rule: "at least", count: 2 }
                        : { rule: e.target.value as "any one" | "everyone" },
                  })
                }
                options={["any one", "everyone", "at least"].map((r) => ({ value: r, label: r }))}
              />
            </div>
            {step.rule.rule === "at least" && (
              <div className="w-20">
                <Input
                  label="How many"
                  type="number"
                  min={1}
                  value={step.rule.count}
                  onChange={(e) =>
                    onChange({ ...step, rule: { rule: "at least", count: Math.max(1, Number(e.target.value)) } })
                  }
                />
              </div>
            )}
          </div>
          <Check
            label="The requester may not vote"
            checked={step.notRequester}
            onChange={(e) => onChange({ ...step, notRequester: e.target.checked })}
          />
          <Check
            label="A decline needs a comment"
            checked={step.commentOnDecline}
            onChange={(e) => onChange({ ...step, commentOnDecline: e.target.checked })}
          />
          <ShownFields value={step.shown} onChange={(shown) => onChange({ ...step, shown })} />
          <SpanInput label="Within" value={step.within} onChange={(within) => onChange({ ...step, within })} />
          <LadderPicker value={step.ladder} onChange={(ladder) => onChange({ ...step, ladder })} />
        </>
      );
    case "branch":
      return (
        <div className="flex flex-col gap-2">
          {step.cases.map((c, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a case's name is what is being typed
            <div key={i} className="rounded-lg border border-hairline p-2">
              <Input label="Case" value={c.name} onChange={(e) => onChange(renameExit(step, c.name, e.target.value))} />
              <ExpressionInput
                label="if"
                kind="condition"
                version={version}
                value={c.when}
                onChange={(when) =>
                  onChange({ ...step, cases: step.cases.map((x, j) => (j === i ? { ...x, when } : x)) })
                }
              />
              {step.cases.length > 1 && (
                <Button look="quiet" onClick={() => onChange({ ...step, cases: step.cases.filter((_, j) => j !== i) })}>
                  Leave it out
                </Button>
              )}
            </div>
          ))}
          <Button
            onClick={() =>
              onChange({ ...step, cases: [...step.cases, { name: `case ${step.cases.length + 1}`, when: "" }] })
            }
          >
            Add a case
          </Button>
        </div>
      );
    case "automation": {
      const actions = catalogue.data?.actions ?? [];
      const action = actions.find((a) => a.key === step.action);
      return (
        <>
          <Select
            label="Action"
            value={step.action}
            onChange={(e) => onChange({ ...step, action: e.target.value, inputs: {} })}
            options={[
              ...(action ? [] : [{ value: step.action, label: `${step.action} (unknown)` }]),
              ...actions.map((a) => ({ value: a.key, label: `${a.name} (${a.key})` })),
            ]}
          />
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
          {action?.inputs.map((f) => (
            <ExpressionInput
              key={f.name}
              label={f.required ? `${f.label} (needed)` : f.label}
              kind="value"
              version={version}
              value={step.inputs[f.name] ?? ""}
              placeholder="ticket.ci"
              onChange={(v) =>
                onChange({
                  ...step,
                  inputs: v
                    ? { ...step.inputs, [f.name]: v }
                    : Object.fromEntries(Object.entries(step.inputs).filter(([k]) => k !== f.name)),
                })
              }
            />
          ))}
          {action && action.outputs.length > 0 && (
            <p className="text-sm text-ink-2">
              Gives {action.outputs.map((o) => `steps.${step.id}.${o.field.name}`).join(", ")}
            </p>
          )}
          <SpanInput
            label={`Time limit (${action?.timeLimit ?? "the action’s own"})`}
            value={step.timeLimit}
            onChange={(timeLimit) => onChange({ ...step, timeLimit })}
          />
          <Input
            label={`Tries (${action?.tries ?? "the action’s own"})`}
            type="number"
            min={1}
            max={20}
            value={step.tries ?? ""}
            onChange={(e) => onChange({ ...step, tries: e.target.value === "" ? undefined : Number(e.target.value) })}
          />
        </>
      );
    }
    case "notify":
      return (
        <>
          <PartiesPicker label="Who is told, by mail" value={step.to} onChange={(to) => onChange({ ...step, to })} />
          <ExpressionInput
            label="Subject"
            kind="text"
            version={version}
            value={step.subject}
            onChange={(subject) => onChange({ ...step, subject })}
          />
          <ExpressionInput
            label="Text"
            kind="text"
            rows={5}
            version={version}
            value={step.text}
            onChange={(text) => onChange({ ...step, text })}
            help="{{ ticket.lockNumber ?? 'none' }} gives a default for a missing value."
          />
        </>
      );
    case "update":
      return <Assignments step={step} version={version} onChange={onChange} />;
    case "wait":
      return (
        <>
          <SpanInput
            label="For"
            value={step.span}
            onChange={(span) => onChange({ ...step, span, until: span ? undefined : step.until })}
          />
          <ExpressionInput
            label="or until"
            kind="value"
            version={version}
            value={step.until ?? ""}
            placeholder="ticket.plannedStart"
            onChange={(until) => onChange({ ...step, until: until || undefined, span: until ? undefined : step.span })}
          />
        </>
      );
    case "end":
      return (
        <>
          <Input label="Result" value={step.result} onChange={(e) => onChange({ ...step, result: e.target.value })} />
          <ExpressionInput
            label="Mail to the requester"
            kind="text"
            rows={3}
            version={version}
            value={step.message ?? ""}
            onChange={(t) => onChange({ ...step, message: t || undefined })}
          />
        </>
      );
  }
}

function SpanInput({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string | undefined;
  onChange: (v: string | undefined) => void;
}) {
  const wrong =
    value !== undefined && !/^\s*\d{1,6}\s*(working\s+)?(s|sec|seconds?|min|minutes?|h|hours?|days?)\s*$/i.test(value);
  return (
    <Input
      label={label}
      defaultValue={value ?? ""}
      key={value ?? ""}
      placeholder="30 min, 4 working h, 2 working days"
      problem={wrong ? "Write it like 30 min, 4 working h or 2 working days." : undefined}
      onBlur={(e) => {
        const text = e.target.value.trim();
        if (text === "") onChange(undefined);
        else if (/^\d{1,6}\s*(working\s+)?(s|sec|seconds?|min|minutes?|h|hours?|days?)$/i.test(text)) onChange(text);
        else e.target.setCustomValidity("no length of time");
        if (text !== (value ?? "")) e.target.reportValidity();
      }}
      onInput={(e) => e.currentTarget.setCustomValidity("")}
    />
  );
}

function ShownFields({ value, onChange }: { value: string[]; onChange: (v: string[]) => void }) {
  const catalogue = useCatalogue();
  const paths = (catalogue.data?.paths ?? []).filter((p) => p.path.startsWith("ticket.") || p.path.startsWith("ci."));
  return (
    <div>
      <Select
        label="Shown, and bound to the decision"
        value=""
        onChange={(e) => e.target.value && onChange([...value, e.target.value])}
        options={[
          { value: "", label: "and…" },
          ...paths.filter((p) => !value.includes(p.path)).map((p) => ({ value: p.path, label: p.path })),
        ]}
      />
      <ul className="mt-1 flex flex-wrap gap-1">
        {value.map((p) => (
          <li
            key={p}
            className="flex items-center rounded-full border border-hairline bg-sheet pl-2.5 font-mono text-xs"
          >
            {p}
            <Button
              look="quiet"
              className="!px-2 !py-0"
              aria-label={`Do not show ${p}`}
              onClick={() => onChange(value.filter((x) => x !== p))}
            >
              ✕
            </Button>
          </li>
        ))}
      </ul>
    </div>
  );
}

const SETTABLE_NOT = new Set(["ticket.number", "ticket.kind", "ticket.createdAt", "ci.id", "ci.kind"]);

function Assignments({
  step,
  version,
  onChange,
}: {
  step: Extract<Step, { kind: "update" }>;
  version: Version;
  onChange: (s: Step) => void;
}) {
  const catalogue = useCatalogue();
  const targets = [
    ...(catalogue.data?.paths ?? [])
      .map((p) => p.path)
      .filter((p) => (p.startsWith("ticket.") || p.startsWith("ci.")) && !SETTABLE_NOT.has(p)),
    ...version.vars.map((v) => `vars.${v.name}`),
  ];
  const set = (i: number, change: Partial<(typeof step.set)[number]>) =>
    onChange({ ...step, set: step.set.map((s, j) => (j === i ? { ...s, ...change } : s)) });
  return (
    <div className="flex flex-col gap-2">
      {step.set.map((a, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: an assignment has no name of its own
        <div key={i} className="rounded-lg border border-hairline p-2">
          <div className="flex items-end gap-2">
            <div className="min-w-0 flex-1">
              <Select
                label="Set"
                value={a.target}
                onChange={(e) => set(i, { target: e.target.value })}
                options={targets.map((t) => ({ value: t, label: t }))}
              />
            </div>
            <div className="w-28">
              <Select
                label="to"
                value={a.text === undefined ? "value" : "text"}
                onChange={(e) =>
                  set(
                    i,
                    e.target.value === "text"
                      ? { text: a.value ?? "", value: undefined }
                      : { value: a.text ?? "", text: undefined },
                  )
                }
                options={[
                  { value: "text", label: "a text" },
                  { value: "value", label: "a value" },
                ]}
              />
            </div>
          </div>
          {a.text === undefined ? (
            <ExpressionInput
              label="Value"
              hideLabel
              kind="value"
              version={version}
              value={a.value ?? ""}
              onChange={(value) => set(i, { value })}
            />
          ) : (
            <ExpressionInput
              label="Text"
              hideLabel
              kind="text"
              rows={2}
              version={version}
              value={a.text}
              onChange={(text) => set(i, { text })}
            />
          )}
          {step.set.length > 1 && (
            <Button look="quiet" onClick={() => onChange({ ...step, set: step.set.filter((_, j) => j !== i) })}>
              Leave it out
            </Button>
          )}
        </div>
      ))}
      <Button onClick={() => onChange({ ...step, set: [...step.set, { target: "ticket.group", text: "" }] })}>
        Set one more
      </Button>
    </div>
  );
}
