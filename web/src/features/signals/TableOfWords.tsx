import type { MappingRow } from "../../api/types";
import { Button, Input, Select } from "../../ui/kit";

/** Our own words where there is only a choice of them. */
const OURS: Partial<Record<MappingRow["to"], string[]>> = {
  sort: ["fault", "recovered", "news"],
  severity: ["critical", "major", "minor", "warning", "indeterminate", "cleared"],
};

/** What the sender's words mean: a word as it comes, and ours. A word that is in no row is not understood, or means the last. */
export function TableOfWords({ row, onChange }: { row: MappingRow; onChange: (row: MappingRow) => void }) {
  const pairs = Object.entries(row.table ?? {});
  const ours = OURS[row.to];
  const set = (next: [string, string][]) => {
    const table = Object.fromEntries(next);
    onChange({ ...row, table: next.length === 0 ? undefined : table });
  };
  const change = (i: number, pair: [string, string]) => set(pairs.map((p, at) => (at === i ? pair : p)));
  const meaning = (label: string, value: string, onPick: (v: string) => void) =>
    ours ? (
      <Select
        label={label}
        hideLabel
        value={value}
        onChange={onPick}
        options={ours.map((o) => ({ value: o, label: o }))}
      />
    ) : (
      <Input label={label} hideLabel value={value} onChange={(e) => onPick(e.target.value)} />
    );
  return (
    <fieldset className="flex flex-col gap-2">
      <legend className="mb-1 text-sm font-semibold text-ink-2">What its words mean</legend>
      {pairs.map(([came, means], i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the word itself is typed here
        <div key={i} className="grid grid-cols-[1fr_20px_1fr_auto] items-center gap-2">
          <Input
            label={`Word ${i + 1} as it comes`}
            hideLabel
            className="font-mono"
            value={came}
            onChange={(e) => change(i, [e.target.value, means])}
          />
          <span aria-hidden="true" className="text-center text-ink-2">
            →
          </span>
          {meaning(`What word ${i + 1} means`, means, (v) => change(i, [came, v]))}
          <Button
            look="quiet"
            aria-label={`Take the word ${came} away`}
            onClick={() => set(pairs.filter((_, at) => at !== i))}
          >
            ✕
          </Button>
        </div>
      ))}
      <div className="flex flex-wrap items-end gap-3">
        <Button onClick={() => set([...pairs, ["", ours?.[0] ?? ""]])} disabled={pairs.some(([came]) => came === "")}>
          Add a word
        </Button>
        {pairs.length > 0 && (
          <div className="w-56">
            {ours ? (
              <Select
                label="Any other word means"
                value={row.otherwise ?? ""}
                onChange={(v) => onChange({ ...row, otherwise: v === "" ? undefined : v })}
                options={[
                  { value: "", label: "nothing: it is not understood" },
                  ...ours.map((o) => ({ value: o, label: o })),
                ]}
              />
            ) : (
              <Input
                label="Any other word means"
                value={row.otherwise ?? ""}
                onChange={(e) => onChange({ ...row, otherwise: e.target.value || undefined })}
              />
            )}
          </div>
        )}
      </div>
    </fieldset>
  );
}
