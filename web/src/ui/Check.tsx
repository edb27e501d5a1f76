import { Check as Tick } from "@phosphor-icons/react/Check";
import { Checkbox } from "radix-ui";
import { useId } from "react";

/** Yes or no. */
export function Check({
  label,
  checked,
  onChange,
  disabled,
  hideLabel,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
  disabled?: boolean;
  /** The label is read to screen readers only. */
  hideLabel?: boolean;
}) {
  const id = useId();
  return (
    <span className="flex items-center gap-2">
      <Checkbox.Root
        id={id}
        checked={checked}
        disabled={disabled}
        aria-label={hideLabel ? label : undefined}
        onCheckedChange={(c) => onChange(c === true)}
        className="flex size-4 shrink-0 items-center justify-center rounded border border-ink-2 bg-sheet text-on-pine disabled:opacity-50 data-[state=checked]:border-pine data-[state=checked]:bg-pine"
      >
        <Checkbox.Indicator>
          <Tick weight="bold" size={12} />
        </Checkbox.Indicator>
      </Checkbox.Root>
      {!hideLabel && <label htmlFor={id}>{label}</label>}
    </span>
  );
}
