import { useState } from "react";
import { Button, Select } from "../../ui/kit";
import { HELPERS, helped } from "./helpers";

/** Picks a helper, fills its blanks, and writes the expression; the preview is that of the field it writes to. */
export function HelperForm({ onWrite, onClose }: { onWrite: (text: string) => void; onClose: () => void }) {
  const [key, setKey] = useState(HELPERS[0]?.key ?? "");
  const [values, setValues] = useState<Record<string, string>>({});
  const helper = HELPERS.find((h) => h.key === key);
  if (!helper) return null;
  const change = (next: Record<string, string>) => {
    setValues(next);
    onWrite(helped(helper, next));
  };
  return (
    <fieldset className="mt-1 flex flex-col gap-1.5 rounded-lg border border-hairline bg-raised p-2 text-xs">
      <legend className="px-1 text-ink-2">Work on data</legend>
      <Select
        label="What it gives"
        hideLabel
        value={key}
        onChange={(picked) => {
          setKey(picked as typeof key);
          setValues({});
        }}
        options={HELPERS.map((h) => ({ value: h.key, label: h.says }))}
      />
      {helper.blanks.map((b) => (
        <label key={`${key}.${b.name}`} className="flex items-center gap-2">
          <span className="w-28 shrink-0 text-ink-2">{b.label}</span>
          <input
            className="min-w-0 flex-1 rounded-md border border-hairline bg-sheet px-1.5 py-1 font-mono"
            value={values[b.name] ?? b.start}
            onChange={(e) => change({ ...values, [b.name]: e.target.value })}
          />
        </label>
      ))}
      <div className="flex gap-1">
        <Button
          className="!px-2 !py-0.5 text-xs"
          onClick={() => {
            onWrite(helped(helper, values));
            onClose();
          }}
        >
          Write it
        </Button>
        <Button look="quiet" className="!px-2 !py-0.5 text-xs" onClick={onClose}>
          Close
        </Button>
      </div>
    </fieldset>
  );
}
