import { useEffect, useRef, useState } from "react";
import { BOX, Labelled, type LabelledProps } from "./Labelled";
import { understood, type WhenKind, whenWords, written } from "./when";

const EXAMPLES: Record<WhenKind, string> = {
  moment: "tomorrow 22:00, fri 7, in 2 h",
  day: "fri, 1.12., in 3 weeks",
  time: "22:00",
};

/**
 * A time as people write it, with what was understood below. What is not understood is not sent: the form says so and stays.
 *
 * @param value as fields keep it: 2026-12-01T08:00, 2026-12-01 or 08:00, in the zone of whoever writes
 */
export function When({
  label,
  help,
  problem,
  hideLabel,
  kind = "moment",
  value,
  onChange,
  required,
}: LabelledProps & { kind?: WhenKind; value: string; onChange: (value: string) => void; required?: boolean }) {
  const [text, setText] = useState(() => written(value, kind));
  const input = useRef<HTMLInputElement>(null);
  // Said last by this field; any other value came from outside and is shown.
  const said = useRef(value);
  if (value !== said.current) {
    said.current = value;
    setText(written(value, kind));
  }
  const meant = text.trim() === "" ? "" : understood(text, kind, new Date());
  const unclear = meant === undefined;
  useEffect(() => {
    input.current?.setCustomValidity(unclear ? `Write a time such as: ${EXAMPLES[kind]}.` : "");
  }, [unclear, kind]);
  const say = (next: string) => {
    setText(next);
    const now = next.trim() === "" ? "" : understood(next, kind, new Date());
    if (now !== undefined && now !== said.current) {
      said.current = now;
      onChange(now);
    }
  };
  return (
    <Labelled label={label} problem={problem} hideLabel={hideLabel}>
      {(id) => (
        <>
          <input
            ref={input}
            id={id}
            className={BOX}
            autoComplete="off"
            aria-describedby={`${id}-meant`}
            aria-invalid={unclear || problem !== undefined}
            required={required}
            placeholder={EXAMPLES[kind]}
            value={text}
            onChange={(e) => say(e.target.value)}
            onBlur={() => meant && setText(written(meant, kind))}
          />
          <p
            id={`${id}-meant`}
            aria-live="polite"
            className={`mt-1 min-h-4 text-xs ${unclear ? "text-late" : "text-ink-2"}`}
          >
            {unclear
              ? `Not understood. Write for example: ${EXAMPLES[kind]}.`
              : [meant && kind !== "time" ? whenWords(meant, kind) : "", help].filter(Boolean).join(" · ")}
          </p>
        </>
      )}
    </Labelled>
  );
}
