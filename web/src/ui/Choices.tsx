import { RadioGroup } from "radix-ui";
import { type ReactNode, useId } from "react";

/** One of a few, each with words that tell what it means. */
export function Choices({
  label,
  value,
  onChange,
  options,
  className = "flex flex-col gap-1",
}: {
  label: string;
  value: string | undefined;
  onChange: (value: string) => void;
  options: { value: string; label: string; children?: ReactNode; disabled?: boolean }[];
  className?: string;
}) {
  const id = useId();
  return (
    <RadioGroup.Root aria-label={label} value={value ?? ""} onValueChange={onChange} className={className}>
      {options.map((o, i) => (
        <div
          key={o.value}
          className={`flex items-start gap-2.5 rounded-lg border px-3 py-2 ${o.value === value ? "border-pine bg-selected" : "border-hairline bg-sheet"}`}
        >
          <RadioGroup.Item
            id={`${id}-${i}`}
            value={o.value}
            disabled={o.disabled}
            className="mt-0.5 flex size-4 shrink-0 items-center justify-center rounded-full border border-ink-2 bg-sheet disabled:opacity-50 data-[state=checked]:border-pine"
          >
            <RadioGroup.Indicator className="size-2 rounded-full bg-pine" />
          </RadioGroup.Item>
          <label htmlFor={`${id}-${i}`} className="min-w-0 flex-1">
            {o.children ?? o.label}
          </label>
        </div>
      ))}
    </RadioGroup.Root>
  );
}
