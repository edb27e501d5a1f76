import type { StepOf, Version } from "../../api/types";
import { Button, Input } from "../../ui/kit";
import { ConditionInput } from "./ConditionInput";
import { renameExit } from "./model";
import { TableEditor } from "./TableEditor";

type Branch = StepOf<"branch">;

/** A decision on data: cases with a condition each, or a table. */
export function BranchEditor({
  step,
  version,
  onChange,
}: {
  step: Branch;
  version: Version;
  onChange: (s: Branch) => void;
}) {
  if (step.table) {
    return (
      <div className="flex flex-col gap-2">
        <TableEditor step={step} table={step.table} version={version} onChange={onChange} />
        <Button look="quiet" onClick={() => onChange({ ...step, table: undefined })}>
          Decide by cases instead
        </Button>
      </div>
    );
  }
  return (
    <div className="flex flex-col gap-2">
      {step.cases.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a case's name is what is being typed
        <div key={i} className="rounded-lg border border-hairline p-2">
          <Input
            label="Case"
            value={c.name}
            onChange={(e) => onChange(renameExit(step, c.name, e.target.value) as Branch)}
          />
          <ConditionInput
            label="if"
            version={version}
            value={c.when}
            onChange={(when) => onChange({ ...step, cases: step.cases.map((x, j) => (j === i ? { ...x, when } : x)) })}
          />
          {step.cases.length > 1 && (
            <Button look="quiet" onClick={() => onChange({ ...step, cases: step.cases.filter((_, j) => j !== i) })}>
              Leave it out
            </Button>
          )}
        </div>
      ))}
      <div className="flex flex-wrap gap-1.5">
        <Button
          onClick={() =>
            onChange({ ...step, cases: [...step.cases, { name: `case ${step.cases.length + 1}`, when: "" }] })
          }
        >
          Add a case
        </Button>
        <Button
          onClick={() =>
            onChange({
              ...step,
              table: {
                inputs: [{ label: "Impact", value: "ticket.impact" }],
                hit: "first",
                rows: step.cases.map((c, i) => ({ cells: [String(i + 1)], result: c.name })),
              },
            })
          }
        >
          Decide by a table
        </Button>
      </div>
    </div>
  );
}
