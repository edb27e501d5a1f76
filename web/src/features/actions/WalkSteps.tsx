import { Fragment, useState } from "react";
import { Button, Input, Select, TextArea } from "../../ui/kit";
import { asKind, bodyOf, kindOfStep, moved, STEP_KINDS, stepsOf, type WalkStep } from "./walk";

const KINDS = STEP_KINDS.map((k) => ({ value: k.key, label: k.says }));

/** The steps of a walk, each a sentence to be filled in (M12). */
export function WalkSteps({
  body,
  onChange,
}: {
  body: string | undefined;
  onChange: (body: string | undefined) => void;
}) {
  const steps = stepsOf(body);
  // Rows keep their own names while they move, so that what is typed stays under the cursor.
  const [ids, setIds] = useState<string[]>(() => (steps ?? []).map(() => crypto.randomUUID()));
  if (!steps) {
    return (
      <TextArea
        label="Steps (JSON)"
        rows={8}
        className="font-mono text-xs"
        value={body ?? ""}
        onChange={(e) => onChange(e.target.value || undefined)}
      />
    );
  }
  const keyed = steps.map((_, i) => ids[i] ?? `more ${i}`);
  const keep = (next: WalkStep[], nextIds: string[]) => {
    setIds(nextIds);
    onChange(bodyOf(next));
  };
  const put = (at: number, step: WalkStep) =>
    keep(
      steps.map((s, i) => (i === at ? step : s)),
      keyed,
    );
  const move = (at: number, by: number) => {
    const next = [...keyed];
    const [id] = next.splice(at, 1);
    if (id) next.splice(at + by, 0, id);
    keep(moved(steps, at, by), next);
  };
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold text-ink-2">Steps, as a person would take them</legend>
      <ol className="flex flex-col gap-1">
        {steps.map((step, at) => (
          <li key={keyed[at]} className="flex items-center gap-2 border-b border-hairline pb-1">
            <span aria-hidden className="w-6 shrink-0 text-right text-sm text-ink-2 tabular-nums">
              {at + 1}
            </span>
            <div className="w-44 shrink-0">
              <Select
                label={`Step ${at + 1}`}
                hideLabel
                value={kindOfStep(step)?.key ?? ""}
                onChange={(key) => {
                  const kind = STEP_KINDS.find((k) => k.key === key);
                  if (kind) put(at, asKind(step, kind));
                }}
                options={KINDS}
              />
            </div>
            <div className="flex min-w-0 grow flex-wrap items-center gap-x-2 gap-y-1">
              {kindOfStep(step)?.values.map((v) => (
                <Fragment key={v.name}>
                  {v.before && <span className="shrink-0 text-sm text-ink-2">{v.before}</span>}
                  <div className="min-w-28 grow basis-0">
                    <Input
                      label={`Step ${at + 1}: ${v.before || v.label}`}
                      hideLabel
                      placeholder={v.label}
                      value={step[v.name] ?? ""}
                      onChange={(e) => put(at, { ...step, [v.name]: e.target.value })}
                    />
                  </div>
                </Fragment>
              ))}
            </div>
            <div className="flex shrink-0">
              <Button
                look="quiet"
                aria-label={`Move step ${at + 1} up`}
                disabled={at === 0}
                onClick={() => move(at, -1)}
              >
                ↑
              </Button>
              <Button
                look="quiet"
                aria-label={`Move step ${at + 1} down`}
                disabled={at === steps.length - 1}
                onClick={() => move(at, 1)}
              >
                ↓
              </Button>
              <Button
                look="quiet"
                aria-label={`Leave out step ${at + 1}`}
                onClick={() =>
                  keep(
                    steps.filter((_, i) => i !== at),
                    keyed.filter((_, i) => i !== at),
                  )
                }
              >
                ✕
              </Button>
            </div>
          </li>
        ))}
      </ol>
      {steps.length === 0 && <p className="text-sm text-ink-2">None yet. Begin with what is to be seen on the page.</p>}
      <div className="mt-1">
        <Button onClick={() => keep([...steps, { expect: "" }], [...keyed, crypto.randomUUID()])}>Add a step</Button>
      </div>
    </fieldset>
  );
}
