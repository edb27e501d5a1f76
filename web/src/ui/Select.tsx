import { CaretDown, Check as Tick } from "@phosphor-icons/react";
import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { useRef, useState } from "react";
import { BOX, Labelled, type LabelledProps } from "./Labelled";

export interface Option {
  value: string;
  label: string;
  /** What tells it from others of the same name. */
  detail?: string;
}

/** So few are seen at a glance; more want to be narrowed down by typing. */
const SEEN_AT_A_GLANCE = 8;

/** More rows are not drawn at once: whoever has more types a letter. */
const MOST_DRAWN = 100;

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
          <Popover.Root open={open} onOpenChange={change}>
            <Popover.Trigger asChild>
              <button
                ref={trigger}
                id={id}
                type="button"
                role="combobox"
                aria-haspopup="listbox"
                aria-expanded={open}
                aria-required={required}
                aria-invalid={problem !== undefined}
                data-value={value ?? ""}
                disabled={disabled}
                autoFocus={autoFocus}
                className={`${BOX} flex items-center justify-between gap-2 text-left disabled:opacity-50`}
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
            </Popover.Trigger>
            <Popover.Portal>
              <Popover.Content
                role="group"
                aria-label="What can be chosen"
                align="start"
                sideOffset={4}
                collisionPadding={8}
                className="z-60 max-h-[min(360px,var(--radix-popover-content-available-height))] w-max max-w-[min(420px,calc(100vw-24px))] min-w-(--radix-popover-trigger-width) overflow-hidden rounded-lg border border-hairline bg-raised shadow-xl"
              >
                <Command
                  label="What can be chosen"
                  shouldFilter={false}
                  defaultValue={`=${value ?? ""}`}
                  className="flex max-h-[inherit] flex-col"
                >
                  <Command.Input
                    aria-label="Narrow down"
                    value={text}
                    onValueChange={(t) => {
                      setText(t);
                      onSearch?.(t);
                    }}
                    placeholder="Some letters of it"
                    className={
                      narrow
                        ? "w-full border-b border-hairline bg-transparent px-3 py-2 placeholder:text-ink-2"
                        : "absolute size-px opacity-0"
                    }
                  />
                  <Command.List className="min-h-0 overflow-auto p-1">
                    {fitting.length === 0 && <p className="px-3 py-1.5 text-ink-2">Nothing fits.</p>}
                    {fitting.slice(0, MOST_DRAWN).map((o) => (
                      <Command.Item
                        key={o.value}
                        // A choice may stand for nothing, which the list would take for none.
                        value={`=${o.value}`}
                        data-choice={o.value}
                        className="flex cursor-pointer items-baseline gap-2 rounded-md px-2 py-1 data-[selected=true]:bg-selected"
                        onSelect={() => {
                          change(false);
                          if (o.value !== value) onChange(o.value);
                        }}
                      >
                        <span aria-hidden="true" className="w-3 shrink-0 self-center text-pine">
                          {o.value === (value ?? "") && <Tick weight="bold" />}
                        </span>
                        <span>{o.label}</span>
                        {o.detail && <span className="text-sm text-ink-2">{o.detail}</span>}
                      </Command.Item>
                    ))}
                    {fitting.length > MOST_DRAWN && (
                      <p className="px-3 py-1.5 text-sm text-ink-2">
                        {(fitting.length - MOST_DRAWN).toLocaleString("en-GB")} more: type some letters.
                      </p>
                    )}
                  </Command.List>
                </Command>
              </Popover.Content>
            </Popover.Portal>
          </Popover.Root>
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
