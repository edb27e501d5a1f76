import { type ReactNode, useId } from "react";

/** The look of whatever holds a value. */
export const BOX =
  "w-full rounded-lg border border-hairline bg-sheet px-2.5 py-1.5 text-ink placeholder:text-ink-2 focus:border-pine";

export interface LabelledProps {
  label: string;
  help?: string;
  problem?: string;
  /** The label is read to screen readers only. */
  hideLabel?: boolean;
}

export function Labelled({
  label,
  help,
  problem,
  hideLabel,
  children,
}: LabelledProps & { children: (id: string) => ReactNode }) {
  const id = useId();
  return (
    <div className="min-w-0">
      <label htmlFor={id} className={hideLabel ? "sr-only" : "mb-1 block text-sm font-semibold text-ink-2"}>
        {label}
      </label>
      {children(id)}
      {help && !problem && <p className="mt-1 text-xs text-ink-2">{help}</p>}
      {problem && (
        <p role="alert" className="mt-1 text-xs text-late">
          {problem}
        </p>
      )}
    </div>
  );
}
