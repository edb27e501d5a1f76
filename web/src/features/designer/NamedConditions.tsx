import type { Version } from "../../api/types";
import { Button } from "../../ui/kit";
import { ConditionInput } from "./ConditionInput";
import { NewName } from "./GiveName";
import { useDesigner } from "./store";

/** Conditions under names of their own, read anywhere in the workflow as is.<name>. */
export function NamedConditions({ version }: { version: Version }) {
  const edit = useDesigner((s) => s.edit);
  const entries = Object.entries(version.conditions);
  const set = (next: [string, string][]) =>
    edit((d) => {
      d.conditions = Object.fromEntries(next);
    });
  return (
    <div>
      <p className="mb-1 text-sm font-semibold text-ink-2">Conditions with names</p>
      <ul className="flex flex-col gap-2">
        {entries.map(([name, condition]) => (
          <li key={name} className="rounded-lg border border-hairline p-2">
            <div className="mb-1 flex items-center justify-between gap-2">
              <code className="font-mono text-xs">is.{name}</code>
              <Button
                look="quiet"
                aria-label={`Leave out is.${name}`}
                onClick={() => set(entries.filter(([n]) => n !== name))}
              >
                Leave it out
              </Button>
            </div>
            <ConditionInput
              label={`What is.${name} means`}
              hideLabel
              version={version}
              value={condition}
              onChange={(text) => set(entries.map(([n, c]) => [n, n === name ? text : c]))}
            />
          </li>
        ))}
      </ul>
      <NewName
        taken={entries.map(([n]) => n)}
        label="A new name"
        onMake={(name) => set([...entries, [name, "ticket.impact == 1"]])}
      />
    </div>
  );
}
