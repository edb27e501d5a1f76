import type { Step, StepOf, Version } from "../../api/types";
import { Input, Select } from "../../ui/kit";
import { ConditionInput } from "./ConditionInput";
import { PartyPicker } from "./parties";
import { SpanInput } from "./SpanInput";
import { ValueOf } from "./ValueEditor";

type Wait = StepOf<"wait">;
type For = "span" | "until" | "condition" | "signal" | "reply";

const FORS: { value: For; label: string }[] = [
  { value: "span", label: "a length of time" },
  { value: "until", label: "a moment" },
  { value: "condition", label: "something to become true" },
  { value: "signal", label: "a signal from outside" },
  { value: "reply", label: "a reply" },
];

const forOf = (step: Wait): For =>
  step.replyOf
    ? "reply"
    : step.signal !== undefined
      ? "signal"
      : step.condition !== undefined
        ? "condition"
        : step.until !== undefined
          ? "until"
          : "span";

/** Waiting for another thing keeps nothing of what was waited for before, but the limit. */
export function waitingFor(step: Wait, what: For): Wait {
  const { span: _s, until: _u, condition: _c, signal: _g, key: _k, replyOf: _r, ...rest } = step;
  switch (what) {
    case "span":
      return { ...rest, within: undefined, span: "10 min" };
    case "until":
      return { ...rest, within: undefined, until: "" };
    case "condition":
      return { ...rest, condition: "" };
    case "signal":
      return { ...rest, signal: "" };
    case "reply":
      return { ...rest, replyOf: { is: "requester" } };
  }
}

/** What a wait waits for: exactly one thing. */
export function WaitEditor({ step, version, onChange }: { step: Wait; version: Version; onChange: (s: Step) => void }) {
  const what = forOf(step);
  return (
    <>
      <Select
        label="Waits for"
        value={what}
        onChange={(picked) => onChange(waitingFor(step, picked as For))}
        options={FORS}
      />
      {what === "span" && <SpanInput label="For" value={step.span} onChange={(span) => onChange({ ...step, span })} />}
      {what === "until" && (
        <ValueOf
          label="Until"
          of="Moment"
          field={{ type: "time" }}
          version={version}
          value={step.until ?? ""}
          onChange={(until) => onChange({ ...step, until })}
        />
      )}
      {what === "condition" && (
        <ConditionInput
          label="Until this holds"
          version={version}
          value={step.condition ?? ""}
          onChange={(condition) => onChange({ ...step, condition })}
        />
      )}
      {what === "signal" && (
        <>
          <Input
            label="Name of the signal"
            value={step.signal ?? ""}
            onChange={(e) => onChange({ ...step, signal: e.target.value })}
          />
          <ValueOf
            label="with the key"
            of="Key"
            field={{ type: "text" }}
            version={version}
            value={step.key ?? ""}
            onChange={(t) => onChange({ ...step, key: t || undefined })}
          />
        </>
      )}
      {what === "reply" && (
        <>
          <PartyPicker label="Of" value={step.replyOf} onChange={(p) => p && onChange({ ...step, replyOf: p })} />
          <p className="text-sm text-ink-2">
            What they write on the ticket next, or answer by mail, is <code>steps.{step.id}.text</code>.
          </p>
        </>
      )}
      {(what === "condition" || what === "signal" || what === "reply") && (
        <SpanInput label="At most" value={step.within} onChange={(within) => onChange({ ...step, within })} />
      )}
    </>
  );
}
