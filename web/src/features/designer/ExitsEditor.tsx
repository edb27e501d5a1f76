import type { Step, Version } from "../../api/types";
import { layoutRoute } from "../../route/layout";
import { exitsOf, expectedOf, optionalExitsOf, routeSteps, waysOf } from "../../route/ofVersion";
import { Button, Input, Select } from "../../ui/kit";
import { levelOf, renameExit } from "./model";

/** What a step ends with: each exit, whether it is the expected one, and where it leads. */
export function Exits({
  step,
  version,
  actions,
  onChange,
  onRelead,
  onNewEnd,
}: {
  step: Exclude<Step, { kind: "end" }>;
  version: Version;
  actions: Parameters<typeof exitsOf>[1];
  onChange: (s: Step) => void;
  onRelead: (exit: string, to: string | undefined) => void;
  onNewEnd: (exit: string) => void;
}) {
  const rows = layoutRoute(routeSteps(version, actions)).rows;
  // Ways join steps of the same level only.
  const name = new Map(levelOf(version, step.id).map((s) => [s.id, s.name]));
  const targets = rows
    .filter((r) => name.has(r.id))
    .map((r) => ({ value: r.id, label: `${r.number} ${name.get(r.id)}` }));
  const must = exitsOf(step, actions);
  const ways = waysOf(step);
  const expected = expectedOf(step, actions);
  return (
    <div>
      <p className="mb-1 text-sm font-semibold text-ink-2">Ends with</p>
      <ul className="flex flex-col gap-1.5">
        {[...must, ...optionalExitsOf(step)].map((exit, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: an outcome's name is what is being typed
          <li key={i} className="flex items-center gap-2">
            <button
              type="button"
              aria-pressed={exit === expected}
              aria-label={`${exit}: the expected way`}
              title="The expected way draws the main line"
              disabled={!must.includes(exit)}
              className={`size-4 shrink-0 rounded-full border-2 ${exit === expected ? "border-pine bg-pine" : "border-hairline"} disabled:invisible`}
              onClick={() => onChange({ ...step, expected: exit })}
            />
            <div className={step.kind === "task" ? "w-32 shrink-0" : "max-w-32 shrink-0"}>
              {step.kind === "task" && must.includes(exit) ? (
                <Input
                  label={`Outcome ${i + 1}`}
                  hideLabel
                  value={exit}
                  onChange={(e) => onChange(renameExit(step, exit, e.target.value))}
                />
              ) : (
                <span className={must.includes(exit) ? "" : "text-ink-2"}>{exit}</span>
              )}
            </div>
            <div className="min-w-0 flex-1">
              <Way
                exit={exit}
                to={ways[exit]}
                unwired={must.includes(exit) ? "→ nowhere yet" : "not wired"}
                targets={targets}
                onRelead={(to) => (to === "+end" ? onNewEnd(exit) : onRelead(exit, to))}
              />
            </div>
            {step.kind === "task" && must.length > 1 && must.includes(exit) && (
              <button
                type="button"
                aria-label={`Leave out the outcome ${exit}`}
                className="text-ink-2 hover:text-ink"
                onClick={() =>
                  onChange({
                    ...step,
                    outcomes: step.outcomes.filter((o) => o !== exit),
                    ways: Object.fromEntries(Object.entries(step.ways).filter(([e]) => e !== exit)),
                  })
                }
              >
                ✕
              </button>
            )}
          </li>
        ))}
      </ul>
      {step.kind === "task" && (
        <Button
          className="mt-1.5"
          onClick={() => onChange({ ...step, outcomes: [...step.outcomes, freeOutcome(step.outcomes)] })}
        >
          Add an outcome
        </Button>
      )}
    </div>
  );
}

/** Where an exit leads. */
function Way({
  exit,
  to,
  unwired,
  targets,
  onRelead,
}: {
  exit: string;
  to: string | undefined;
  unwired: string;
  targets: { value: string; label: string }[];
  onRelead: (to: string | undefined) => void;
}) {
  return (
    <Select
      label={`${exit} leads to`}
      hideLabel
      value={to ?? ""}
      onChange={(picked) => onRelead(picked || undefined)}
      options={[
        { value: "", label: unwired },
        { value: "+end", label: "▬ a new end" },
        ...targets.map((t) => ({ value: t.value, label: `→ ${t.label}` })),
      ]}
    />
  );
}

function freeOutcome(outcomes: string[]): string {
  let n = outcomes.length + 1;
  while (outcomes.includes(`Outcome ${n}`)) n++;
  return `Outcome ${n}`;
}
