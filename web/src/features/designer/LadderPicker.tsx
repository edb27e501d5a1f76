import { useState } from "react";
import { useCatalogue, useNames } from "../../api/hooks";
import { Select } from "../../ui/kit";
import { deedWords } from "../ticket/words";
import { LadderDialog } from "./LadderDialog";

/** Chooses a ladder, or makes one without leaving the workflow. */
export function LadderPicker({
  value,
  onChange,
}: {
  value: string | undefined;
  onChange: (key: string | undefined) => void;
}) {
  const catalogue = useCatalogue();
  const names = useNames();
  const [editing, setEditing] = useState<"new" | "chosen">();
  const ladders = catalogue.data?.ladders ?? [];
  const chosen = ladders.find((l) => l.key === value);
  return (
    <div>
      <Select
        label="If nobody acts"
        value={value ?? ""}
        onChange={(picked) => (picked === "+" ? setEditing("new") : onChange(picked || undefined))}
        options={[
          { value: "", label: "nothing climbs" },
          ...ladders.map((l) => ({ value: l.key, label: l.name })),
          { value: "+", label: "make a ladder…" },
        ]}
      />
      {chosen && (
        <p className="mt-1 text-xs text-ink-2">
          {chosen.rungs.map((r) => `${r.after}: ${deedWords(r.deed, names)}`).join(" · ")}
          {chosen.again && ` · tells again every ${chosen.again.every}, ${chosen.again.times} times`}
          {chosen.stopsWhenClaimed && " · stands still while somebody has claimed the task"}{" "}
          <button type="button" className="link" onClick={() => setEditing("chosen")}>
            change it…
          </button>
        </p>
      )}
      {editing && (
        <LadderDialog
          ladder={editing === "chosen" ? chosen : undefined}
          onClose={() => setEditing(undefined)}
          onDone={(key) => {
            setEditing(undefined);
            onChange(key);
          }}
        />
      )}
    </div>
  );
}
