import { useState } from "react";
import type { Field } from "../../api/types";
import { Button, Select } from "../../ui/kit";
import {
  type Clause,
  type Group,
  isGroup,
  isRaw,
  needsValue,
  OPERATORS,
  type Operator,
  type Part,
  plainValue,
  quoteValue,
  readCondition,
  writeCondition,
} from "./condition";

export interface PathField {
  path: string;
  field?: Field;
}

const BOX = "min-w-0 rounded-md border border-hairline bg-sheet px-1.5 py-1 text-xs focus:border-pine";

/** A condition by picking field, operator and value, in groups that nest. */
export function ConditionBuilder({
  value,
  paths,
  onChange,
}: {
  value: string;
  paths: PathField[];
  onChange: (text: string) => void;
}) {
  // Rows that are not filled yet say nothing in the expression, so they are kept here while it is open.
  const [group, setGroup] = useState<Group>(() => readCondition(value));
  const [said, setSaid] = useState(value);
  if (value !== said) {
    setSaid(value);
    setGroup(readCondition(value));
  }
  const put = (next: Group) => {
    const text = writeCondition(next);
    setGroup(next);
    setSaid(text);
    onChange(text);
  };
  return <GroupRows group={group} paths={paths} onChange={put} />;
}

function GroupRows({
  group,
  paths,
  onChange,
  onDelete,
}: {
  group: Group;
  paths: PathField[];
  onChange: (g: Group) => void;
  onDelete?: () => void;
}) {
  const set = (i: number, part: Part) => onChange({ ...group, parts: group.parts.map((p, j) => (j === i ? part : p)) });
  const drop = (i: number) => onChange({ ...group, parts: group.parts.filter((_, j) => j !== i) });
  const fresh: Clause = { field: paths[0]?.path ?? "ticket.impact", operator: "is", value: "" };
  return (
    <fieldset className="flex flex-col gap-1.5 border-l-2 border-hairline pl-2">
      <legend className="sr-only">Rows of the condition</legend>
      <div className="flex items-center gap-1.5 text-xs">
        <Select
          label="How the rows are joined"
          hideLabel
          value={group.join}
          onChange={(picked) => onChange({ ...group, join: picked as Group["join"] })}
          options={[
            { value: "all", label: "all of these" },
            { value: "any", label: "any of these" },
          ]}
        />
        {onDelete && (
          <button
            type="button"
            className="text-ink-2 hover:text-ink"
            aria-label="Leave the group out"
            onClick={onDelete}
          >
            ✕
          </button>
        )}
      </div>
      {group.parts.map((part, i) =>
        isGroup(part) ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own
          <GroupRows key={i} group={part} paths={paths} onChange={(g) => set(i, g)} onDelete={() => drop(i)} />
        ) : (
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own
          <div key={i} className="flex items-start gap-1">
            <div className="min-w-0 flex-1">
              {isRaw(part) ? (
                <input
                  aria-label="Expression"
                  className={`${BOX} w-full font-mono`}
                  value={part.raw}
                  onChange={(e) => set(i, { raw: e.target.value })}
                />
              ) : (
                <ClauseRow clause={part} paths={paths} onChange={(c) => set(i, c)} />
              )}
            </div>
            <button
              type="button"
              className="px-1 text-ink-2 hover:text-ink"
              aria-label={`Leave row ${i + 1} out`}
              onClick={() => drop(i)}
            >
              ✕
            </button>
          </div>
        ),
      )}
      <div className="flex gap-1">
        <Button
          className="!px-2 !py-0.5 text-xs"
          onClick={() => onChange({ ...group, parts: [...group.parts, fresh] })}
        >
          Add a row
        </Button>
        <Button
          look="quiet"
          className="!px-2 !py-0.5 text-xs"
          onClick={() =>
            onChange({
              ...group,
              parts: [...group.parts, { join: group.join === "all" ? "any" : "all", parts: [fresh] }],
            })
          }
        >
          Add a group
        </Button>
      </div>
    </fieldset>
  );
}

function ClauseRow({ clause, paths, onChange }: { clause: Clause; paths: PathField[]; onChange: (c: Clause) => void }) {
  const field = paths.find((p) => p.path === clause.field)?.field;
  const type = field?.type;
  const known = paths.some((p) => p.path === clause.field);
  const choices = field?.choices ?? (type === "yes or no" ? ["true", "false"] : undefined);
  const typed = plainValue(clause.value);
  const setValue = (text: string) => onChange({ ...clause, value: quoteValue(text, type, clause.operator) });
  return (
    <div className="grid grid-cols-2 gap-1">
      <Select
        label="Field"
        hideLabel
        className="col-span-2"
        value={clause.field}
        onChange={(picked) => onChange({ ...clause, field: picked })}
        options={[
          ...(known ? [] : [{ value: clause.field, label: clause.field }]),
          ...paths.map((p) => ({
            value: p.path,
            label: p.field?.label ?? p.path,
            detail: p.field ? p.path : undefined,
          })),
        ]}
      />
      <Select
        label="Operator"
        hideLabel
        value={clause.operator}
        onChange={(picked) => onChange({ ...clause, operator: picked as Operator })}
        options={OPERATORS.map((o) => ({ value: o, label: o }))}
      />
      {needsValue(clause.operator) &&
        (choices && clause.operator !== "is one of" ? (
          <Select
            label="Value"
            hideLabel
            value={typed}
            onChange={setValue}
            options={[
              ...(choices.includes(typed) ? [] : [{ value: typed, label: typed || "…" }]),
              ...choices.map((c) => ({ value: c, label: c })),
            ]}
          />
        ) : (
          <TypedValue key={clause.operator} value={typed} onChange={setValue} list={clause.operator === "is one of"} />
        ))}
    </div>
  );
}

/** Keeps what is being typed as it is typed: quotes and commas settle only in the expression. */
function TypedValue({ value, list, onChange }: { value: string; list: boolean; onChange: (v: string) => void }) {
  const [text, setText] = useState(value);
  return (
    <input
      aria-label="Value"
      className={BOX}
      value={text}
      placeholder={list ? "ALD, GNQ" : "value"}
      onChange={(e) => {
        setText(e.target.value);
        onChange(e.target.value);
      }}
    />
  );
}
