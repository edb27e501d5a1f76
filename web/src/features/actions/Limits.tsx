import { useDirectory } from "../../api/hooks";
import type { Action, Field } from "../../api/types";
import { Input } from "../../ui/kit";
import { Words } from "./Words";

export type Limit = NonNullable<Action["limits"]>[string];

/** Which limits a field of a type can have. */
export const limitsOf = (type: Field["type"]): "number" | "text" | "ci" | undefined =>
  type === "number" || type === "whole number"
    ? "number"
    : type === "text" || type === "long text"
      ? "text"
      : type === "CI"
        ? "ci"
        : undefined;

/** A limit without what is empty; undefined where nothing is left of it. */
export function tidy(limit: Limit): Limit | undefined {
  const kept = Object.fromEntries(
    Object.entries(limit).filter(
      ([, v]) => v !== undefined && v !== null && v !== "" && !(Array.isArray(v) && !v.length),
    ),
  ) as Limit;
  return Object.keys(kept).length > 0 ? kept : undefined;
}

/** Limits of inputs that are there, of a type that has them: those of one that was taken away or is otherwise go with it. */
export function limitsFor(inputs: Field[], limits: Action["limits"]): Action["limits"] {
  const kept = Object.entries(limits ?? {}).flatMap(([name, limit]) => {
    const type = inputs.find((i) => i.name === name)?.type;
    const sort = type && limitsOf(type);
    const fits =
      sort === "number"
        ? tidy({ least: limit.least, most: limit.most })
        : sort === "text"
          ? tidy({ matches: limit.matches })
          : sort === "ci"
            ? tidy({ kinds: limit.kinds, sites: limit.sites })
            : undefined;
    return fits ? [[name, fits] as const] : [];
  });
  return kept.length > 0 ? Object.fromEntries(kept) : undefined;
}

/** A limit in words, for those who use the action. */
export function limitWords(limit: Limit): string {
  return [
    limit.least !== undefined && limit.least !== null && `at least ${limit.least}`,
    limit.most !== undefined && limit.most !== null && `at most ${limit.most}`,
    limit.matches && `matches ${limit.matches}`,
    limit.kinds?.length && `a ${limit.kinds.join(" or a ")}`,
    limit.sites?.length && `at ${limit.sites.join(" or ")}`,
  ]
    .filter(Boolean)
    .join(", ");
}

/** What the inputs may be, beside their types: it holds for workflows, watches and tries alike (M4). */
export function Limits({
  draft,
  set,
  at,
}: {
  draft: Action;
  set: (change: Partial<Action>) => void;
  at: (field: string) => string | undefined;
}) {
  // Of which kinds each attribute is: those that have attributes are known by it.
  const kinds = [...new Set(Object.values(useDirectory().data?.ciKinds ?? {}).flat())].sort();
  const can = draft.inputs.filter((i) => limitsOf(i.type));
  if (can.length === 0) return null;
  const limit = (name: string, change: Partial<Limit>) => {
    const next = { ...(draft.limits ?? {}), [name]: { ...(draft.limits?.[name] ?? {}), ...change } };
    set({ limits: limitsFor(draft.inputs, next) });
  };
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold text-ink-2">What inputs may be</legend>
      <p className="mb-2 text-sm text-ink-2">
        Holds wherever a value comes from. A call with another is not made; its step waits and says why.
      </p>
      <ul className="flex flex-col gap-2">
        {can.map((i) => (
          <li key={`${i.name} ${i.type}`}>
            <OfInput
              input={i}
              limit={draft.limits?.[i.name] ?? {}}
              kinds={kinds}
              onChange={(change) => limit(i.name, change)}
            />
            {at(`limits.${i.name}`) && <p className="text-sm text-late">{at(`limits.${i.name}`)}</p>}
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

function OfInput({
  input,
  limit,
  kinds,
  onChange,
}: {
  input: Field;
  limit: Limit;
  kinds: string[];
  onChange: (change: Partial<Limit>) => void;
}) {
  const number = (text: string) => (text.trim() === "" || Number.isNaN(Number(text)) ? undefined : Number(text));
  const sort = limitsOf(input.type);
  if (sort === "number")
    return (
      <div className="grid grid-cols-2 gap-2">
        <Input
          label={`${input.label}: at least`}
          type="number"
          step="any"
          value={limit.least ?? ""}
          onChange={(e) => onChange({ least: number(e.target.value) })}
        />
        <Input
          label={`${input.label}: at most`}
          type="number"
          step="any"
          value={limit.most ?? ""}
          onChange={(e) => onChange({ most: number(e.target.value) })}
        />
      </div>
    );
  if (sort === "text")
    return (
      <Input
        label={`${input.label}: the whole text matches`}
        help="A regular expression, such as [A-Z]{3}-\d+"
        value={limit.matches ?? ""}
        onChange={(e) => onChange({ matches: e.target.value })}
      />
    );
  return (
    <div className="grid grid-cols-2 gap-2">
      <Words
        label={`${input.label}: of the kinds`}
        help={kinds.length > 0 ? `Such as ${kinds.join(", ")}` : undefined}
        words={limit.kinds ?? []}
        onChange={(words) => onChange({ kinds: words })}
      />
      <Words
        label={`${input.label}: at the sites`}
        words={limit.sites ?? []}
        onChange={(words) => onChange({ sites: words })}
      />
    </div>
  );
}
