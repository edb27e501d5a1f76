import { CaretDown } from "@phosphor-icons/react/CaretDown";
import { useId, useRef, useState } from "react";
import { BOX, Labelled, type LabelledProps } from "./Labelled";
import { late } from "./late";

const SelectList = late(() => import("./SelectList").then((m) => m.SelectList));

export interface Option {
  value: string;
  label: string;
  /** What tells it from others of the same name. */
  detail?: string;
}

/** So few are seen at a glance; more want to be narrowed down by typing. */
const SEEN_AT_A_GLANCE = 8;

/**
 * One of several: opened by click, Enter or an arrow key, chosen by arrow keys and Enter or by typing some letters of it, left as
 * it was by Esc.
 *
 * @param onSearch when given, asks elsewhere for what fits the letters; `options` then are what was found
 */
export function Select({
  label,
  help,
  problem,
  hideLabel,
  options,
  value,
  onChange,
  onSearch,
  required,
  disabled,
  autoFocus,
  placeholder = "choose…",
  className = "",
}: LabelledProps & {
  options: Option[];
  value: string | undefined;
  onChange: (value: string) => void;
  onSearch?: (text: string) => void;
  required?: boolean;
  disabled?: boolean;
  autoFocus?: boolean;
  placeholder?: string;
  className?: string;
}) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const list = useId();
  const trigger = useRef<HTMLButtonElement>(null);
  const chosen = options.find((o) => o.value === (value ?? ""));
  const narrow = onSearch !== undefined || options.length > SEEN_AT_A_GLANCE;
  const fits = (o: Option) => `${o.label} ${o.detail ?? ""}`.toLowerCase().includes(text.trim().toLowerCase());
  const fitting = onSearch ? options : options.filter(fits);
  const change = (next: boolean) => {
    setOpen(next);
    setText("");
    if (next) onSearch?.("");
  };
  return (
    <Labelled label={label} help={help} problem={problem} hideLabel={hideLabel}>
      {(id) => (
        <div className={`relative ${className}`}>
          <button
            ref={trigger}
            id={id}
            type="button"
            role="combobox"
            aria-haspopup="listbox"
            aria-expanded={open}
            aria-controls={open ? list : undefined}
            aria-required={required}
            aria-invalid={problem !== undefined}
            data-value={value ?? ""}
            disabled={disabled}
            autoFocus={autoFocus}
            className={`${BOX} flex items-center justify-between gap-2 text-left disabled:opacity-50`}
            onClick={() => change(!open)}
            onKeyDown={(e) => {
              if (e.key === "ArrowDown" || e.key === "ArrowUp") {
                e.preventDefault();
                change(true);
              }
            }}
          >
            <span className={`min-w-0 truncate ${chosen ? "" : "text-ink-2"}`}>
              {chosen?.label ?? (value || placeholder)}
            </span>
            <CaretDown aria-hidden="true" className="shrink-0 text-ink-2" />
          </button>
          {open && (
            <SelectList
              id={list}
              field={trigger}
              fitting={fitting}
              value={value}
              text={text}
              narrow={narrow}
              onText={(t) => {
                setText(t);
                onSearch?.(t);
              }}
              onChoose={(chosen) => {
                change(false);
                if (chosen !== value) onChange(chosen);
              }}
              onClose={() => change(false)}
            />
          )}
          {required && !disabled && (
            // The browser asks for what is missing before a form is sent, and shows where.
            <input
              tabIndex={-1}
              aria-hidden="true"
              required
              value={value ?? ""}
              onChange={() => undefined}
              onFocus={() => trigger.current?.focus()}
              className="pointer-events-none absolute inset-x-0 bottom-0 h-px opacity-0"
            />
          )}
        </div>
      )}
    </Labelled>
  );
}
