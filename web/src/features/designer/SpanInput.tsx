import { Input } from "../../ui/kit";

/** A length of time as people say it; taken over when the field is left. */
export function SpanInput({
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
