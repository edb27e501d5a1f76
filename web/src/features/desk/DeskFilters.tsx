import type { ReactNode } from "react";
import { Input } from "../../ui/kit";
import type { DeskFilter } from "./filter";

const KINDS = [
  { kind: undefined, label: "everything" },
  { kind: "tasks", label: "tasks" },
  { kind: "decisions", label: "decisions" },
] as const;

/** Narrows the Desk: words, a kind, only what is mine by name; under a name as a view. */
export function DeskFilters({
  filter,
  shown,
  of,
  onChange,
  children,
}: {
  filter: DeskFilter;
  shown: number;
  of: number;
  onChange: (next: DeskFilter) => void;
  children: ReactNode;
}) {
  const look = (on: boolean) =>
    `rounded-full border px-2.5 py-0.5 text-sm ${on ? "border-pine bg-selected" : "border-hairline bg-sheet hover:border-ink-2"}`;
  return (
    <div
      id="desk-filter"
      className="flex shrink-0 flex-wrap items-center gap-2 border-b border-hairline bg-raised px-5 py-1.5"
    >
      <div className="w-44">
        <Input
          label="Filter the Desk"
          hideLabel
          type="search"
          placeholder="words, P1, a number"
          value={filter.text ?? ""}
          onChange={(e) => onChange({ ...filter, text: e.target.value || undefined })}
          onKeyDown={(e) => e.key === "Escape" && e.currentTarget.blur()}
        />
      </div>
      {KINDS.map(({ kind, label }) => (
        <button
          key={label}
          type="button"
          aria-pressed={filter.kind === kind}
          className={look(filter.kind === kind)}
          onClick={() => onChange({ ...filter, kind })}
        >
          {label}
        </button>
      ))}
      <button
        type="button"
        aria-pressed={filter.own ?? false}
        className={look(filter.own ?? false)}
        onClick={() => onChange({ ...filter, own: filter.own ? undefined : true })}
      >
        only mine by name
      </button>
      {shown < of && (
        <span role="status" className="text-sm text-ink-2">
          {shown} of {of}
        </span>
      )}
      {children}
    </div>
  );
}
