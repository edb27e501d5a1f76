import { useState } from "react";
import type { Field } from "../../api/types";
import { Button } from "../../ui/kit";
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
        <select
          aria-label="How the rows are joined"
          className={BOX}
          value={group.join}
          onChange={(e) => onChange({ ...group, join: e.target.value as Group["join"] })}
        >
          <option value="all">all of these</option>
          <option value="any">any of these</option>
        </select>
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
      <select
        aria-label="Field"
        className={`${BOX} col-span-2`}
        value={clause.field}
        onChange={(e) => onChange({ ...clause, field: e.target.value })}
      >
        {!known && <option value={clause.field}>{clause.field}</option>}
        {paths.map((p) => (
          <option key={p.path} value={p.path}>
            {p.field ? `${p.field.label} (${p.path})` : p.path}
          </option>
        ))}
      </select>
      <select
        aria-label="Operator"
        className={BOX}
        value={clause.operator}
        onChange={(e) => onChange({ ...clause, operator: e.target.value as Operator })}
      >
        {OPERATORS.map((o) => (
          <option key={o}>{o}</option>
        ))}
      </select>
      {needsValue(clause.operator) &&
        (choices && clause.operator !== "is one of" ? (
          <select aria-label="Value" className={BOX} value={typed} onChange={(e) => setValue(e.target.value)}>
            {!choices.includes(typed) && <option value={typed}>{typed || "…"}</option>}
            {choices.map((c) => (
              <option key={c}>{c}</option>
            ))}
          </select>
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
