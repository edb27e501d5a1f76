import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Field, WatchBody, WatchReading } from "../../api/types";
import { Button, Input, Select, Trouble } from "../../ui/kit";
import { type Compared, HOW, readRule, writeRowRule, writeRule } from "./rule";

/** A rule over what is read: one comparison that is chosen, or an expression. @param rows whether it is about each row of a list */
export function Rule({
  label,
  rows,
  rule,
  gives,
  problem,
  onChange,
}: {
  label: string;
  rows: boolean;
  rule: string;
  gives: Field[];
  problem?: string;
  onChange: (rule: string) => void;
}) {
  const root = rows ? "row" : "read";
  const [code, setCode] = useState(() => rule !== "" && readRule(rule, root) === undefined);
  // While it is being typed it is no rule yet.
  const [compared, setCompared] = useState<Compared>(
    () => readRule(rule, root) ?? { value: rows ? "" : (gives[0]?.name ?? ""), how: ">", than: "" },
  );
  const typeOf = (name: string) => gives.find((g) => g.name === name)?.type;
  const set = (change: Partial<Compared>) => {
    const next = { ...compared, ...change };
    setCompared(next);
    if (!rows) onChange(writeRule(next, typeOf(next.value)));
    else onChange(next.value === "" ? "" : writeRowRule(next));
  };
  return (
    <fieldset className="sm:col-span-2">
      <legend className="mb-1 text-sm font-semibold text-ink-2">{label}</legend>
      {code ? (
        <Input
          label={`${label}: expression`}
          hideLabel
          required
          problem={problem}
          value={rule}
          placeholder={rows ? "row.level < 3" : gives.map((g) => `read.${g.name}`).join(", ")}
          onChange={(e) => onChange(e.target.value)}
        />
      ) : (
        <div className="flex flex-wrap gap-2">
          <div className="w-56">
            {rows ? (
              <Input
                label={`${label}: member of the row`}
                hideLabel
                required
                value={compared.value}
                problem={problem}
                placeholder="a member of the row"
                onChange={(e) => set({ value: e.target.value.replace(/\W/g, "") })}
              />
            ) : (
              <Select
                label={`${label}: what`}
                hideLabel
                value={compared.value}
                problem={problem}
                options={gives.map((g) => ({ value: g.name, label: g.label }))}
                onChange={(value) => set({ value })}
              />
            )}
          </div>
          <div className="w-36">
            <Select
              label={`${label}: how`}
              hideLabel
              value={compared.how}
              options={HOW}
              onChange={(how) => set({ how })}
            />
          </div>
          <div className="w-32">
            <Input
              label={`${label}: than`}
              hideLabel
              required
              value={compared.than}
              onChange={(e) => set({ than: e.target.value })}
            />
          </div>
        </div>
      )}
      <button type="button" className="link mt-1 text-xs" onClick={() => setCode(!code)}>
        {code ? "choose it" : "say it by an expression"}
      </button>
    </fieldset>
  );
}

/** Looks once, and says what was read and whether it holds. */
export function TryIt({ path, draft, gives }: { path: string; draft: WatchBody; gives: Field[] }) {
  const reading = useMutation({
    mutationFn: () => api.post<WatchReading>(path, { ...draft, name: draft.name || "new" }),
  });
  const r = reading.data;
  return (
    <div className="sm:col-span-2">
      <Button disabled={reading.isPending} onClick={() => reading.mutate()}>
        {reading.isPending ? "It looks…" : "Look once"}
      </Button>
      {reading.isError && <Trouble error={reading.error} />}
      {r && (
        <p role="status" className="mt-2 rounded border border-hairline bg-raised p-2 text-sm">
          <strong className={r.said === "holds" ? "text-soon" : r.said === "could not be read" ? "text-late" : ""}>
            It {r.said}.
          </strong>{" "}
          {r.why ??
            (draft.each
              ? `Of ${String(r.values.rows ?? 0)} rows: ${String(r.values.hold ?? "none")}`
              : gives
                  .filter((g) => r.values[g.name] !== undefined && g.type !== "list")
                  .map((g) => `${g.label}: ${String(r.values[g.name])}`)
                  .join(", "))}
        </p>
      )}
    </div>
  );
}
