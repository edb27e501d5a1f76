import { useState } from "react";
import type { Field } from "../../api/types";
import { Button, Input, Select } from "../../ui/kit";
import {
  type Clause,
  type Group,
  isGroup,
  isPath,
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
import type { Known } from "./paths";
import { Said, type Typed, useChoices } from "./Said";

type Type = Field["type"] | undefined;

const NUMBERS: Type[] = ["whole number", "number"];

/** Whether an operator says anything of values of a type; all do where it is not known. */
function fits(operator: Operator, type: Type): boolean {
  switch (operator) {
    case "above":
    case "at least":
    case "below":
    case "at most":
      return type === undefined || NUMBERS.includes(type) || type === "time";
    case "contains":
      return type === undefined || ["text", "long text", "list"].includes(type);
    case "holds":
    case "does not hold":
      return type === undefined || type === "yes or no";
    default:
      return true;
  }
}

const BOX = "min-w-0 rounded-md border border-hairline bg-sheet px-1.5 py-1 text-xs focus:border-pine";

/** A condition by picking field, operator and value, in groups that nest. */
export function ConditionBuilder({
  value,
  paths,
  onChange,
}: {
  value: string;
  paths: Known[];
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
  paths: Known[];
  onChange: (g: Group) => void;
  onDelete?: () => void;
}) {
  const set = (i: number, part: Part) => onChange({ ...group, parts: group.parts.map((p, j) => (j === i ? part : p)) });
  const drop = (i: number) => onChange({ ...group, parts: group.parts.filter((_, j) => j !== i) });
  const usual = paths.find((p) => p.path === "ticket.impact") ?? paths[0];
  const fresh: Clause = { field: usual?.path ?? "ticket.impact", operator: "is", value: "" };
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

function ClauseRow({ clause, paths, onChange }: { clause: Clause; paths: Known[]; onChange: (c: Clause) => void }) {
  const at = paths.find((p) => p.path === clause.field);
  const type = at?.field?.type;
  return (
    <div className="grid grid-cols-2 gap-1">
      <Select
        label="Field"
        hideLabel
        className="col-span-2"
        value={clause.field}
        onChange={(field) => onChange(movedTo(clause, field, type, paths.find((p) => p.path === field)?.field?.type))}
        options={[
          ...(at ? [] : [{ value: clause.field, label: clause.field }]),
          ...paths.map((p) => ({ value: p.path, label: p.says, detail: p.path })),
        ]}
      />
      <Select
        label="Operator"
        hideLabel
        value={clause.operator}
        onChange={(picked) => onChange({ ...clause, operator: picked as Operator })}
        options={OPERATORS.filter((o) => o === clause.operator || fits(o, type)).map((o) => ({ value: o, label: o }))}
      />
      {needsValue(clause.operator) && (
        <ValueOf key={clause.field + clause.operator} clause={clause} at={at} paths={paths} onChange={onChange} />
      )}
    </div>
  );
}

/** Another field: what was said of the first is not said of it, unless both are of one type. */
function movedTo(clause: Clause, field: string, before: Type, after: Type): Clause {
  const kept = before === after;
  return { field, operator: fits(clause.operator, after) ? clause.operator : "is", value: kept ? clause.value : "" };
}

/** What a field is compared with: said by its type, or another value that is known. */
function ValueOf({
  clause,
  at,
  paths,
  onChange,
}: {
  clause: Clause;
  at: Known | undefined;
  paths: Known[];
  onChange: (c: Clause) => void;
}) {
  const field = at?.field ?? { type: "text" as const };
  const [other, setOther] = useState(isPath(clause.value));
  const say = (text: string) => onChange({ ...clause, value: quoteValue(text, at?.field?.type, clause.operator) });
  if (clause.operator === "is one of") return <SaidList field={field} clause={clause} onChange={onChange} />;
  const turn = (
    <button
      type="button"
      className="link justify-self-start text-xs"
      onClick={() => {
        setOther(!other);
        onChange({ ...clause, value: "" });
      }}
    >
      {other ? "with something said here" : "with another value"}
    </button>
  );
  return (
    <>
      {other ? (
        <Select
          label="Value"
          hideLabel
          value={clause.value}
          placeholder="which…"
          options={[
            ...(clause.value && !paths.some((p) => p.path === clause.value)
              ? [{ value: clause.value, label: clause.value }]
              : []),
            ...paths.map((p) => ({ value: p.path, label: p.says, detail: p.path })),
          ]}
          onChange={(path) => onChange({ ...clause, value: path })}
        />
      ) : (
        <SaidHere field={field} value={plainValue(clause.value)} onChange={say} />
      )}
      {turn}
    </>
  );
}

/** Keeps what is being typed as it is typed: quotes settle only in the expression. */
function SaidHere({ field, value, onChange }: { field: Typed; value: string; onChange: (text: string) => void }) {
  const [text, setText] = useState(value);
  return (
    <Said
      field={field}
      said={text}
      onChange={(said) => {
        setText(said);
        onChange(said);
      }}
    />
  );
}

/** Several values: chosen one after another, or typed with commas where there is nothing to choose from. */
function SaidList({ field, clause, onChange }: { field: Typed; clause: Clause; onChange: (c: Clause) => void }) {
  const choices = useChoices(field);
  const [text, setText] = useState(plainValue(clause.value));
  const put = (said: string) => {
    setText(said);
    onChange({ ...clause, value: quoteValue(said, field.type, "is one of") });
  };
  const chosen = text
    .split(",")
    .map((t) => t.trim())
    .filter((t) => t !== "");
  if (!choices && field.type !== "CI")
    return (
      <Input
        label="Value"
        hideLabel
        value={text}
        placeholder="several, with commas"
        onChange={(e) => put(e.target.value)}
      />
    );
  return (
    <div className="flex flex-col gap-1">
      <div className="flex flex-wrap gap-1">
        {chosen.map((c) => (
          <button
            key={c}
            type="button"
            className="rounded-full border border-hairline bg-sheet px-2 text-xs hover:border-late"
            aria-label={`Leave ${c} out`}
            onClick={() => put(chosen.filter((x) => x !== c).join(", "))}
          >
            {choices?.find((x) => x.value === c)?.label ?? c} ✕
          </button>
        ))}
      </div>
      <Said
        key={chosen.length}
        field={choices ? { ...field, choices: choices.map((c) => c.value).filter((c) => !chosen.includes(c)) } : field}
        said=""
        none="add one…"
        onChange={(one) => one && put([...chosen, one].join(", "))}
      />
    </div>
  );
}
