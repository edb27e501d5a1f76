import type { Field } from "../../api/types";
import { Button, Check, Input, Select, TextArea } from "../../ui/kit";

const FIELD_TYPES: Field["type"][] = [
  "text",
  "long text",
  "whole number",
  "number",
  "yes or no",
  "choice",
  "time",
  "person",
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
}

/** Makes fields: of a task's form, a start form, or run variables. A field keeps its name once it has been labelled. */
export function FormEditor({ title, fields, onChange, prefix = "", add = "Ask for a value" }: Props) {
  const set = (i: number, change: Partial<Field>) =>
    onChange(fields.map((f, j) => (j === i ? { ...f, ...change } : f)));
  return (
    <div>
      <p className="mb-1 text-sm font-semibold text-ink-2">{title}</p>
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
              <div className="w-28">
                <Select
                  label="Type"
                  hideLabel
                  value={f.type}
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
            <div className="mt-1 flex items-center justify-between gap-2">
              <Check label="needed" checked={f.required} onChange={(picked) => set(i, { required: picked })} />
              <code className="truncate font-mono text-xs text-ink-2">
                {prefix}
                {f.name}
              </code>
              <Button look="quiet" onClick={() => onChange(fields.filter((_, j) => j !== i))}>
                Leave it out
              </Button>
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
    </div>
  );
}

function freshName(fields: Field[]): string {
  let n = 1;
  while (fields.some((f) => f.name === `new${n}`)) n++;
  return `new${n}`;
}
