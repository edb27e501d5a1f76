import { useState } from "react";
import type { Version } from "../../api/types";
import { Button, Input } from "../../ui/kit";
import { useDesigner } from "./store";

const WORD = /^[a-zA-Z][A-Za-z0-9_]{0,39}$/;

export function NewName({ taken, label, onMake }: { taken: string[]; label: string; onMake: (name: string) => void }) {
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
