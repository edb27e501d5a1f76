import { Check as Tick } from "@phosphor-icons/react/Check";
import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { type RefObject, useRef } from "react";
import type { Option } from "./Select";

/** More rows are not drawn at once: whoever has more types a letter. */
const MOST_DRAWN = 100;

/**
 * What can be chosen, under its field.
 *
 * @param fitting what fits what was typed
 * @param narrow whether the field to type into is seen
 * @param onClose left without a choice
 */
export function SelectList({
  id,
  field,
  fitting,
  value,
  text,
  narrow,
  onText,
  onChoose,
  onClose,
}: {
  id: string;
  field: RefObject<HTMLButtonElement | null>;
  fitting: Option[];
  value: string | undefined;
  text: string;
  narrow: boolean;
  onText: (text: string) => void;
  onChoose: (value: string) => void;
  onClose: () => void;
}) {
  /** Whoever pressed something else has gone on there: the keyboard is not taken back from it. */
  const elsewhere = useRef(false);
  return (
    <Popover.Root open onOpenChange={(open) => !open && onClose()}>
      <Popover.Anchor virtualRef={field as RefObject<HTMLButtonElement>} />
      <Popover.Portal>
        <Popover.Content
          id={id}
          role="group"
          aria-label="What can be chosen"
          align="start"
          sideOffset={4}
          collisionPadding={8}
          className="z-60 max-h-[min(360px,var(--radix-popover-content-available-height))] w-max max-w-[min(420px,calc(100vw-24px))] min-w-(--radix-popover-trigger-width) overflow-hidden rounded-lg border border-hairline bg-raised shadow-xl"
          onCloseAutoFocus={(e) => {
            e.preventDefault();
            if (!elsewhere.current) field.current?.focus();
          }}
          onInteractOutside={(e) => {
            // Its field closes it by itself.
            if (e.target instanceof Node && field.current?.contains(e.target)) e.preventDefault();
            else elsewhere.current = true;
          }}
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
              onValueChange={onText}
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
                  onSelect={() => onChoose(o.value)}
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
  );
}
