import { useNames } from "../../api/hooks";
import type { Field } from "../../api/types";
import { Input, Select, TextArea } from "../../ui/kit";
import { CiSelect } from "../ticket/CiSelect";

/** What decides how a value is said. */
export type Typed = Pick<Field, "type" | "choices">;

/** What a value of a type can be chosen from; undefined where it is typed, or found among very many. */
export function useChoices(field: Typed): { value: string; label: string }[] | undefined {
  const { directory } = useNames();
  switch (field.type) {
    case "yes or no":
      return [
        { value: "true", label: "yes" },
        { value: "false", label: "no" },
      ];
    case "group":
      return (directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name }));
    case "person":
      return (directory?.people ?? []).map((p) => ({ value: p.id, label: p.name }));
    case "service":
      return (directory?.services ?? []).map((s) => ({ value: s.id, label: s.name }));
    default:
      return field.choices?.length ? field.choices.map((c) => ({ value: c, label: c })) : undefined;
  }
}

/** A value that is chosen or typed, by its type. @param none what an empty one means; undefined where one is needed */
export function Said({
  field,
  said,
  onChange,
  label = "Value",
  none,
}: {
  field: Typed;
  said: string;
  onChange: (said: string) => void;
  label?: string;
  none?: string;
}) {
  const choices = useChoices(field);
  if (choices) {
    const unknown = said !== "" && !choices.some((c) => c.value === said);
    return (
      <Select
        label={label}
        hideLabel
        value={said}
        placeholder={none}
        options={[
          ...(none ? [{ value: "", label: none }] : []),
          ...(unknown ? [{ value: said, label: `${said} (unknown)` }] : []),
          ...choices,
        ]}
        onChange={onChange}
      />
    );
  }
  if (field.type === "CI") return <CiSelect label={label} hideLabel value={said} none={none} onChange={onChange} />;
  if (field.type === "long text")
    return (
      <TextArea
        label={label}
        hideLabel
        rows={2}
        value={said}
        placeholder={none}
        onChange={(e) => onChange(e.target.value)}
      />
    );
  const number = field.type === "whole number" || field.type === "number";
  return (
    <Input
      label={label}
      hideLabel
      type={number ? "number" : "text"}
      step={field.type === "number" ? "any" : undefined}
      value={said}
      placeholder={none}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}
