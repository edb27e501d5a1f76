import { useCatalogue } from "../../api/hooks";
import type { Finding, Step, StepOf, Version } from "../../api/types";
import { KIND_WORDS } from "../../route/Glyph";
import { Check } from "../../ui/Check";
import { Button, Input, Select } from "../../ui/kit";
import { counted, Tabs } from "../../ui/Tabs";
import { ActionInputs } from "./ActionInputs";
import { Assignments } from "./Assignments";
import { CheckEditor, ForkEditor, PutBackEditor } from "./BracketEditors";
import { BranchEditor } from "./BranchEditor";
import { CallEditor } from "./CallEditor";
import { ConditionInput } from "./ConditionInput";
import { ENDINGS } from "./describe";
import { Exits } from "./ExitsEditor";
import { ExpressionInput } from "./ExpressionInput";
import { FormEditor } from "./FormEditor";
import { InvitesEditor } from "./InvitesEditor";
import { LadderPicker } from "./LadderPicker";
import { TURNS, turnInto } from "./model";
import { PartPicker } from "./PartPicker";
import { PartiesPicker, PartyPicker } from "./parties";
import { SpanInput } from "./SpanInput";
import { TAKEN, ValueOf } from "./ValueEditor";
import { WaitEditor } from "./WaitEditor";

interface Props {
  step: Step;
  version: Version;
  findings: Finding[];
  /** The finding whose way is drawn on the route. */
  fault: Finding | undefined;
  onFault: (f: Finding | undefined) => void;
  readOnly: boolean;
  onChange: (step: Step) => void;
  onRelead: (exit: string, to: string | undefined) => void;
  onNewEnd: (exit: string) => void;
  onDelete: () => void;
  onRepair: (finding: Finding) => void;
}

/** What one click would do about a finding. */
export const REPAIRS: Record<NonNullable<Finding["repair"]>, string> = {
  "end here": "End there",
  "delete step": "Delete this step",
  "start by hand": "Let people start it by hand",
};

/** Everything about the selected step, editable in place. */
export function Inspector({
  step,
  version,
  findings,
  fault,
  onFault,
  readOnly,
  onChange,
  onRelead,
  onNewEnd,
  onDelete,
  onRepair,
}: Props) {
  const catalogue = useCatalogue();
  const actions = catalogue.data?.actions ?? [];
  const drawn = (f: Finding) => fault?.code === f.code && fault.step === f.step && fault.exit === f.exit;
  return (
    <fieldset disabled={readOnly} className="flex flex-col gap-3.5">
      <legend className="sr-only">{step.name}</legend>
      <div>
        <Input label="Name" hideLabel value={step.name} onChange={(e) => onChange({ ...step, name: e.target.value })} />
        <p className="mt-1 text-xs text-ink-2">
          {KIND_WORDS[step.kind]} · <code className="font-mono">steps.{step.id}</code>
        </p>
        {version.notes[step.id]?.wording && (
          <blockquote className="mt-1.5 border-l-2 border-hairline pl-2 text-sm whitespace-pre-wrap text-ink-2">
            {version.notes[step.id]?.wording}
          </blockquote>
        )}
      </div>
      {findings.map((f) => (
        <p
          key={f.message}
          className={`border-t-2 pt-1.5 text-sm ${f.severity === "blocks" ? "border-late text-late" : "border-soon text-soon"}`}
        >
          {f.message}
          {f.path && f.path.length > 0 && (
            <span className="mt-0.5 block text-xs text-ink-2">
              On the way {f.path.map((p) => `${p.step} → ${p.exit}`).join(", ")}.{" "}
              <button
                type="button"
                className="link"
                aria-pressed={drawn(f)}
                onClick={() => onFault(drawn(f) ? undefined : f)}
              >
                {drawn(f) ? "draw the whole route" : "draw this way"}
              </button>
            </span>
          )}
          {f.repair && !readOnly && (
            <button type="button" className="link block" onClick={() => onRepair(f)}>
              {REPAIRS[f.repair]}
            </button>
          )}
        </p>
      ))}
      {TURNS.some((t) => t.kind === step.kind) && (
        <Select
          label="This is"
          value={step.kind}
          onChange={(picked) => onChange(turnInto(step, picked as (typeof TURNS)[number]["kind"], version, actions))}
          options={TURNS.map((t) => ({ value: t.kind, label: t.label }))}
        />
      )}
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
  switch (step.kind) {
    case "task":
      return (
        <Tabs
          key={step.id}
          label="Parts of the task"
          tabs={[
            {
              key: "task",
              title: "The task",
              content: (
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
                  <PartyPicker
                    label="Who"
                    value={step.assignee}
                    onChange={(p) => p && onChange({ ...step, assignee: p })}
                  />
                  <PartyPicker
                    label="Overseen by"
                    value={step.overseer}
                    none="nobody apart"
                    onChange={(p) => onChange({ ...step, overseer: p })}
                  />
                  <SpanInput label="Until" value={step.due} onChange={(due) => onChange({ ...step, due })} />
                  <LadderPicker value={step.ladder} onChange={(ladder) => onChange({ ...step, ladder })} />
                  <ConditionInput
                    label="Left out if"
                    version={version}
                    value={step.leftOutIf ?? ""}
                    onChange={(t) => onChange({ ...step, leftOutIf: t || undefined })}
                  />
                  <Check
                    label="A person may leave it out"
                    checked={step.mayLeaveOut}
                    onChange={(picked) => onChange({ ...step, mayLeaveOut: picked })}
                  />
                </>
              ),
            },
            {
              key: "form",
              title: counted("Its form", step.form?.length ?? 0),
              content: (
                <FormEditor
                  title="Asked with it"
                  says="Whoever does it fills this in before giving an outcome; later steps can read it."
                  asks
                  fields={step.form ?? []}
                  onChange={(form) => onChange({ ...step, form: form.length ? form : undefined })}
                />
              ),
            },
          ]}
        />
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
                onChange={(picked) =>
                  onChange({
                    ...step,
                    rule:
                      picked === "at least"
                        ? { rule: "at least", count: 2 }
                        : picked === "share"
                          ? { rule: "share", percent: 60 }
                          : {
                              rule: picked as "any one" | "everyone" | "majority" | "one from each" | "in sequence",
                            },
                  })
                }
                options={RULES}
              />
            </div>
            {step.rule.rule === "share" && (
              <div className="w-20">
                <Input
                  label="Percent"
                  type="number"
                  min={1}
                  max={100}
                  value={step.rule.percent}
                  onChange={(e) =>
                    onChange({
                      ...step,
                      rule: { rule: "share", percent: Math.min(100, Math.max(1, Number(e.target.value))) },
                    })
                  }
                />
              </div>
            )}
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
            label="The requester may not vote, nor who acts for them"
            checked={step.notRequester}
            onChange={(picked) => onChange({ ...step, notRequester: picked })}
          />
          <Check
            label="A decline needs a comment"
            checked={step.commentOnDecline}
            onChange={(picked) => onChange({ ...step, commentOnDecline: picked })}
          />
          <Check
            label="A yes needs a comment too"
            checked={step.terms?.commentAlways ?? false}
            onChange={(picked) => onChange(withTerms(step, { commentAlways: picked }))}
          />
          <Check
            label="A yes may name a condition"
            checked={step.terms?.mayAddConditions ?? false}
            onChange={(picked) => onChange(withTerms(step, { mayAddConditions: picked }))}
          />
          <PartiesPicker
            label="Who may not vote besides"
            value={step.terms?.without ?? []}
            onChange={(without) => onChange(withTerms(step, { without }))}
          />
          <PartiesPicker
            label="Whose no ends it at once"
            value={step.terms?.veto ?? []}
            onChange={(veto) => onChange(withTerms(step, { veto }))}
          />
          <ShownFields value={step.shown} onChange={(shown) => onChange({ ...step, shown })} />
          <SpanInput label="Within" value={step.within} onChange={(within) => onChange({ ...step, within })} />
          <LadderPicker value={step.ladder} onChange={(ladder) => onChange({ ...step, ladder })} />
        </>
      );
    case "branch":
      return <BranchEditor step={step} version={version} onChange={onChange} />;
    case "automation":
      return (
        <>
          <ActionInputs step={step} version={version} onChange={(change) => onChange({ ...step, ...change })} />
          <PutBackEditor step={step} version={version} onChange={onChange} />
        </>
      );
    case "capture":
      return <ActionInputs step={step} version={version} onChange={(change) => onChange({ ...step, ...change })} />;
    case "check":
      return <CheckEditor step={step} version={version} onChange={onChange} />;
    case "call":
      return <CallEditor step={step} version={version} onChange={onChange} />;
    case "escalate":
      return (
        <>
          <LadderPicker value={step.ladder} onChange={(ladder) => onChange({ ...step, ladder: ladder ?? "" })} />
          <PartPicker value={step.as} onChange={(as) => onChange({ ...step, as })} />
          <ExpressionInput
            label="Why people are called in"
            kind="text"
            rows={3}
            version={version}
            value={step.message}
            onChange={(message) => onChange({ ...step, message })}
          />
          <SpanInput
            label="Within"
            value={step.within}
            onChange={(within) => onChange({ ...step, within: within ?? "30 min" })}
          />
        </>
      );
    case "stage":
      return (
        <p className="text-sm text-ink-2">What its steps change can be put back together. Press i for a step inside.</p>
      );
    case "fork":
      return <ForkEditor step={step} version={version} onChange={onChange} />;
    case "for each":
      return (
        <>
          <ValueOf
            label="Each of this list"
            of="List"
            field={TAKEN}
            version={version}
            value={step.list}
            onChange={(list) => onChange({ ...step, list })}
          />
          <Input label="Called" value={step.item} onChange={(e) => onChange({ ...step, item: e.target.value })} />
          <Input
            label="How many at a time"
            type="number"
            min={1}
            value={step.atOnce}
            onChange={(e) => onChange({ ...step, atOnce: Math.max(1, Number(e.target.value)) })}
          />
          <Check
            label="Stop at the first failure"
            checked={step.stopAtFirst}
            onChange={(picked) => onChange({ ...step, stopAtFirst: picked })}
          />
          <p className="text-sm text-ink-2">Gives steps.{step.id}.count, .succeeded, .failed and .items</p>
        </>
      );
    case "repeat":
      return (
        <>
          <ConditionInput
            label="Until"
            version={version}
            value={step.until}
            onChange={(until) => onChange({ ...step, until })}
          />
          <SpanInput label="Pause" value={step.pause} onChange={(pause) => onChange({ ...step, pause })} />
          <Input
            label="Rounds at most"
            type="number"
            min={1}
            value={step.rounds}
            onChange={(e) => onChange({ ...step, rounds: Math.max(1, Number(e.target.value)) })}
          />
          <SpanInput label="Within" value={step.within} onChange={(within) => onChange({ ...step, within })} />
        </>
      );
    case "notify":
      return (
        <>
          <Check
            label="Said in the ticket’s room in chat"
            checked={step.room !== undefined}
            onChange={(picked) =>
              onChange({
                ...step,
                room: picked ? { name: "{{ ticket.number }} {{ ticket.title }}", keepsAll: false } : undefined,
              })
            }
          />
          {step.room && (
            <>
              <ExpressionInput
                label="Called"
                kind="text"
                version={version}
                value={step.room.name}
                onChange={(name) => step.room && onChange({ ...step, room: { ...step.room, name } })}
              />
              <Check
                label="All that is said there comes onto the record"
                checked={step.room.keepsAll}
                onChange={(picked) => step.room && onChange({ ...step, room: { ...step.room, keepsAll: picked } })}
              />
            </>
          )}
          <PartiesPicker
            label={step.room ? "Who is invited" : "Who is told, as they want to be reached"}
            value={step.to}
            onChange={(to) => onChange({ ...step, to })}
          />
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
          {!step.room && <InvitesEditor step={step} version={version} onChange={onChange} />}
        </>
      );
    case "update":
      return <Assignments step={step} version={version} onChange={onChange} />;
    case "wait":
      return <WaitEditor step={step} version={version} onChange={onChange} />;
    case "end":
      return (
        <>
          <Input label="Result" value={step.result} onChange={(e) => onChange({ ...step, result: e.target.value })} />
          <Select
            label="What it does"
            value={step.ending}
            onChange={(picked) => onChange({ ...step, ending: picked as typeof step.ending })}
            options={Object.entries(ENDINGS).map(([value, label]) => ({ value, label }))}
          />
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

type Approval = StepOf<"approval">;

const withTerms = (step: Approval, change: Partial<NonNullable<Approval["terms"]>>): Approval => ({
  ...step,
  terms: { veto: [], without: [], commentAlways: false, mayAddConditions: false, ...step.terms, ...change },
});

const RULES = [
  { value: "any one", label: "any one: the first vote decides" },
  { value: "everyone", label: "everyone" },
  { value: "majority", label: "a majority" },
  { value: "at least", label: "at least a number" },
  { value: "share", label: "at least a share" },
  { value: "one from each", label: "one from each of those named" },
  { value: "in sequence", label: "one from each, one after the other" },
];

function ShownFields({ value, onChange }: { value: string[]; onChange: (v: string[]) => void }) {
  const catalogue = useCatalogue();
  const paths = (catalogue.data?.paths ?? []).filter((p) => p.path.startsWith("ticket.") || p.path.startsWith("ci."));
  return (
    <div>
      <Select
        label="Shown, and bound to the decision"
        value=""
        onChange={(picked) => picked && onChange([...value, picked])}
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
