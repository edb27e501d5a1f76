import { useState } from "react";
import type { Field } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Input, Select, TextArea } from "../../ui/kit";
import { FormFields, type FormValues } from "../ticket/FormFields";

const FIELD_TYPES: Field["type"][] = [
  "text",
  "long text",
  "whole number",
  "number",
  "yes or no",
  "choice",
  "time",
  "person",
  "group",
  "service",
  "CI",
  "list",
];

/** A name for expressions from a label: "What you saw" is whatYouSaw. */
export function nameFor(label: string, fields: Field[]): string {
  const words = label
    .normalize("NFKD")
    .replace(/[^A-Za-z0-9 ]/g, "")
    .trim()
    .split(/\s+/)
    .slice(0, 4);
  const base = words
    .map((w, i) => (i === 0 ? w.toLowerCase() : w.charAt(0).toUpperCase() + w.slice(1).toLowerCase()))
    .join("")
    .slice(0, 30);
  const start = /^[a-z]/.test(base) ? base : `value${base}`;
  let name = start;
  for (let n = 2; fields.some((f) => f.name === name); n++) name = `${start}${n}`;
  return name;
}

interface Props {
  title: string;
  fields: Field[];
  onChange: (fields: Field[]) => void;
  /** What stands before a field's name in expressions, such as "input." */
  prefix?: string;
  add?: string;
  /** What the fields are for, for whoever designs. */
  says?: string;
  /** Whether people fill it in: each field may help them, and the whole is shown as they see it. */
  asks?: boolean;
  /** Names of fields that stay, with their type. */
  stays?: string[];
  /** Whether one may be needed. */
  needs?: boolean;
}

/** Makes fields: of a task's form, a start form, or run variables. A field keeps its name once it has been labelled. */
export function FormEditor({
  title,
  fields,
  onChange,
  prefix = "",
  add = "Ask for a value",
  says,
  asks,
  stays = [],
  needs = true,
}: Props) {
  const [seen, setSeen] = useState<FormValues>({});
  const move = (i: number, by: number) => {
    const next = [...fields];
    const [moved] = next.splice(i, 1);
    if (moved) next.splice(i + by, 0, moved);
    onChange(next);
  };
  const set = (i: number, change: Partial<Field>) =>
    onChange(fields.map((f, j) => (j === i ? { ...f, ...change } : f)));
  return (
    <div>
      <p className="mb-1 text-sm font-semibold text-ink-2">{title}</p>
      {says && <p className="mb-2 text-sm text-ink-2">{says}</p>}
      <ul className="flex flex-col gap-2">
        {fields.map((f, i) => (
          <li key={f.name} className="rounded-lg border border-hairline p-2">
            <div className="flex gap-2">
              <div className="flex-1">
                <Input
                  label="Field"
                  hideLabel
                  defaultValue={f.label}
                  onBlur={(e) => {
                    const label = e.target.value.trim() || f.label;
                    const unnamed = /^new\d*$/.test(f.name);
                    if (label !== f.label) set(i, { label, ...(unnamed ? { name: nameFor(label, fields) } : {}) });
                  }}
                />
              </div>
              <div className="w-36">
                <Select
                  label="Type"
                  hideLabel
                  value={f.type}
                  disabled={stays.includes(f.name)}
                  onChange={(picked) =>
                    set(i, {
                      type: picked as Field["type"],
                      choices: picked === "choice" ? ["yes", "no"] : undefined,
                    })
                  }
                  options={FIELD_TYPES.map((t) => ({ value: t, label: t }))}
                />
              </div>
            </div>
            {f.type === "choice" && (
              <TextArea
                label="Choices, one a line"
                rows={2}
                defaultValue={(f.choices ?? []).join("\n")}
                onBlur={(e) => {
                  const choices = e.target.value
                    .split("\n")
                    .map((c) => c.trim())
                    .filter(Boolean);
                  if (choices.length > 0) set(i, { choices });
                }}
              />
            )}
            {asks && (
              <div className="mt-1">
                <Input
                  label={`What helps to fill in “${f.label}”`}
                  hideLabel
                  placeholder="what helps to fill it in"
                  maxLength={200}
                  defaultValue={f.help ?? ""}
                  onBlur={(e) => {
                    const help = e.target.value.trim() || undefined;
                    if (help !== f.help) set(i, { help });
                  }}
                />
              </div>
            )}
            <div className="mt-1 flex items-center justify-between gap-2">
              {needs ? (
                <Check label="needed" checked={f.required} onChange={(picked) => set(i, { required: picked })} />
              ) : (
                <span />
              )}
              {prefix ? (
                <code className="truncate font-mono text-xs text-ink-2">
                  {prefix}
                  {f.name}
                </code>
              ) : (
                <span />
              )}
              <span className="flex shrink-0">
                {fields.length > 1 && (
                  <>
                    <Button
                      look="quiet"
                      aria-label={`${f.label} further up`}
                      disabled={i === 0}
                      onClick={() => move(i, -1)}
                    >
                      ↑
                    </Button>
                    <Button
                      look="quiet"
                      aria-label={`${f.label} further down`}
                      disabled={i === fields.length - 1}
                      onClick={() => move(i, 1)}
                    >
                      ↓
                    </Button>
                  </>
                )}
                {!stays.includes(f.name) && (
                  <Button look="quiet" onClick={() => onChange(fields.filter((_, j) => j !== i))}>
                    Leave it out
                  </Button>
                )}
              </span>
            </div>
          </li>
        ))}
      </ul>
      <Button
        className="mt-1"
        onClick={() =>
          onChange([...fields, { name: freshName(fields), label: "New value", type: "text", required: false }])
        }
      >
        {add}
      </Button>
      {asks && fields.length > 0 && (
        <section aria-label="As people see it" className="mt-4 border-t border-hairline pt-3">
          <h3 className="mb-2 text-sm font-semibold text-ink-2">As people see it</h3>
          <FormFields fields={fields} values={seen} onChange={setSeen} />
        </section>
      )}
    </div>
  );
}

function freshName(fields: Field[]): string {
  let n = 1;
  while (fields.some((f) => f.name === `new${n}`)) n++;
  return `new${n}`;
}
