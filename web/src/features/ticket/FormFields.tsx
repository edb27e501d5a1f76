import type { Field } from "../../api/types";
import { Check, Input, Select, TextArea } from "../../ui/kit";

export type FormValues = Record<string, string | number | boolean>;

/** The fields of a form, each by its type. */
export function FormFields({
  fields,
  values,
  onChange,
}: {
  fields: Field[];
  values: FormValues;
  onChange: (next: FormValues) => void;
}) {
  const set = (name: string, value: string | number | boolean | undefined) => {
    const next = { ...values };
    if (value === undefined || value === "") delete next[name];
    else next[name] = value;
    onChange(next);
  };
  return (
    <div className="flex flex-col gap-3">
      {fields.map((f) => {
        const label = f.required ? `${f.label} (needed)` : f.label;
        const common = { label, help: f.help, required: f.required };
        switch (f.type) {
          case "long text":
            return (
              <TextArea
                key={f.name}
                {...common}
                rows={2}
                value={String(values[f.name] ?? "")}
                onChange={(e) => set(f.name, e.target.value)}
              />
            );
          case "yes or no":
            return (
              <Check
                key={f.name}
                label={label}
                checked={values[f.name] === true}
                onChange={(picked) => set(f.name, picked)}
              />
            );
          case "choice":
            return (
              <Select
                key={f.name}
                {...common}
                value={String(values[f.name] ?? "")}
                onChange={(picked) => set(f.name, picked)}
                options={[{ value: "", label: "—" }, ...(f.choices ?? []).map((c) => ({ value: c, label: c }))]}
              />
            );
          case "number":
          case "whole number":
            return (
              <Input
                key={f.name}
                {...common}
                type="number"
                step={f.type === "number" ? "any" : 1}
                value={values[f.name] === undefined ? "" : String(values[f.name])}
                onChange={(e) => set(f.name, e.target.value === "" ? undefined : Number(e.target.value))}
              />
            );
          default:
            return (
              <Input
                key={f.name}
                {...common}
                value={String(values[f.name] ?? "")}
                onChange={(e) => set(f.name, e.target.value)}
              />
            );
        }
      })}
    </div>
  );
}
