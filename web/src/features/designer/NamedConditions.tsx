import { useState } from "react";
import type { Version } from "../../api/types";
import { Button, Input } from "../../ui/kit";
import { ExpressionInput } from "./ExpressionInput";
import { useDesigner } from "./store";

const WORD = /^[a-zA-Z][A-Za-z0-9_]{0,39}$/;

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
            <ExpressionInput
              label={`What is.${name} means`}
              hideLabel
              kind="condition"
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

function NewName({ taken, label, onMake }: { taken: string[]; label: string; onMake: (name: string) => void }) {
  const [name, setName] = useState("");
  const problem =
    name === ""
      ? undefined
      : !WORD.test(name)
        ? "One word of letters and digits, such as urgentAtNight."
        : taken.includes(name)
          ? "There is one of this name."
          : undefined;
  return (
    <div className="mt-1 flex items-end gap-2">
      <div className="flex-1">
        <Input
          label={label}
          hideLabel
          placeholder="urgentAtNight"
          value={name}
          problem={problem}
          onChange={(e) => setName(e.target.value.trim())}
        />
      </div>
      <Button
        disabled={name === "" || problem !== undefined}
        onClick={() => {
          onMake(name);
          setName("");
        }}
      >
        Name a condition
      </Button>
    </div>
  );
}

/** Gives the condition that stands in a field a name, so that others can use it too. */
export function GiveName({
  version,
  value,
  onChange,
}: {
  version: Version;
  value: string;
  onChange: (t: string) => void;
}) {
  const edit = useDesigner((s) => s.edit);
  const [open, setOpen] = useState(false);
  if (/^is\.\w+$/.test(value.trim())) return null;
  if (!open)
    return (
      <button type="button" className="link mr-3 text-xs" onClick={() => setOpen(true)}>
        give it a name…
      </button>
    );
  return (
    <NewName
      taken={Object.keys(version.conditions)}
      label="Name of the condition"
      onMake={(name) => {
        edit((d) => {
          d.conditions[name] = value;
        });
        onChange(`is.${name}`);
        setOpen(false);
      }}
    />
  );
}
