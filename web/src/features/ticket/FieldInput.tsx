import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { Field } from "../../api/types";
import { Input, Select, TextArea } from "../../ui/kit";
import { late } from "../../ui/late";
import { CiSelect } from "./CiSelect";
import { instantOf, linesOf, localOf } from "./fieldValues";

/** Both are rare here; the reader of times is larger than all else together. */
const Check = late(() => import("../../ui/Check").then((m) => m.Check));
const When = late(() => import("../../ui/When").then((m) => m.When));

export type FieldValue = string | number | boolean | string[];

/**
 * A value by the type of its field (B8): people, groups, services and CIs are chosen by name, times are written as people write them, a
 * list has a line for each. Nobody types a short name or an instant.
 *
 * @param onChange undefined where nothing is said
 */
export function FieldInput({
  field,
  value,
  onChange,
  problem,
  label = field.label,
}: {
  field: Field;
  value: FieldValue | undefined;
  onChange: (value: FieldValue | undefined) => void;
  problem?: string;
  label?: string;
}) {
  const { directory } = useNames();
  const common = { label, help: field.help, problem, required: field.required };
  const text = value === undefined ? "" : String(value);
  const say = (said: string) => onChange(said === "" ? undefined : said);
  const pick = (options: { value: string; label: string }[]) => (
    <Select
      {...common}
      value={text}
      placeholder="—"
      options={[
        { value: "", label: "—" },
        // What was chosen before and is no longer offered is still what stands there.
        ...(text && !options.some((o) => o.value === text)
          ? [{ value: text, label: `${text} (no longer there)` }]
          : []),
        ...options,
      ]}
      onChange={say}
    />
  );
  switch (field.type) {
    case "long text":
      return <TextArea {...common} rows={2} value={text} onChange={(e) => say(e.target.value)} />;
    case "yes or no":
      return (
        <div>
          <Check
            label={label}
            checked={value === true}
            onChange={onChange}
            before={
              <span className="flex items-center gap-2">
                <span className="size-4 shrink-0 rounded border border-ink-2 bg-sheet" />
                {label}
              </span>
            }
          />
          {field.help && <p className="mt-1 text-xs text-ink-2">{field.help}</p>}
          {problem && (
            <p role="alert" className="mt-1 text-xs text-late">
              {problem}
            </p>
          )}
        </div>
      );
    case "choice":
      return pick((field.choices ?? []).map((c) => ({ value: c, label: c })));
    case "person":
      return pick((directory?.people ?? []).filter((p) => p.active).map((p) => ({ value: p.id, label: p.name })));
    case "group":
      return pick((directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })));
    case "service":
      return pick((directory?.services ?? []).map((s) => ({ value: s.id, label: s.name })));
    case "CI":
      return <CiSelect {...common} value={text} none="—" onChange={say} />;
    case "time":
      return (
        <When
          {...common}
          value={localOf(text)}
          onChange={(said) => onChange(said === "" ? undefined : instantOf(said))}
          // The same height, so that nothing moves.
          before={<Input {...common} value="" disabled help={"\u00a0"} />}
        />
      );
    case "number":
    case "whole number":
      return (
        <Input
          {...common}
          type="number"
          step={field.type === "number" ? "any" : 1}
          value={text}
          onChange={(e) => onChange(e.target.value === "" ? undefined : Number(e.target.value))}
        />
      );
    case "list":
      return <ListInput {...common} value={Array.isArray(value) ? value : []} onChange={onChange} />;
    default:
      return <Input {...common} value={text} onChange={(e) => say(e.target.value)} />;
  }
}

/** A line for each; empty lines are there only while somebody types. */
function ListInput({
  value,
  onChange,
  help = "One a line.",
  ...common
}: {
  label: string;
  help?: string;
  problem?: string;
  required?: boolean;
  value: string[];
  onChange: (value: string[] | undefined) => void;
}) {
  const [text, setText] = useState(value.join("\n"));
  const shown = (linesOf(text) ?? []).join("\n") === value.join("\n") ? text : value.join("\n");
  return (
    <TextArea
      {...common}
      help={help}
      rows={3}
      value={shown}
      onChange={(e) => {
        setText(e.target.value);
        onChange(linesOf(e.target.value));
      }}
    />
  );
}
