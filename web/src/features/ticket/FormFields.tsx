import type { Field } from "../../api/types";
import { FieldInput, type FieldValue } from "./FieldInput";

export type FormValues = Record<string, FieldValue>;

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
  const set = (name: string, value: FieldValue | undefined) => {
    const next = { ...values };
    if (value === undefined) delete next[name];
    else next[name] = value;
    onChange(next);
  };
  return (
    <div className="flex flex-col gap-3">
      {fields.map((f) => (
        <FieldInput
          key={f.name}
          field={f}
          label={f.required ? `${f.label} (needed)` : f.label}
          value={values[f.name]}
          onChange={(value) => set(f.name, value)}
        />
      ))}
    </div>
  );
}
