import { useCatalogue, useNames } from "../../api/hooks";
import type { Field, Step, Version } from "../../api/types";
import { Button, Select } from "../../ui/kit";
import { LIVES } from "../setup/attributes";
import { ValueEditor } from "./ValueEditor";
import { type Kept, keptValue, readValue } from "./values";

const SETTABLE_NOT = new Set(["ticket.number", "ticket.kind", "ticket.createdAt"]);

/** What is said of a CI once: an update that says them makes one, and puts it on the ticket. */
const MAKES: Record<string, string> = { "ci.id": "CI: a new one, of the id", "ci.kind": "CI: kind of the new one" };

type Asked = Pick<Field, "type" | "choices">;

/** A field that nobody knows, as from a version of before. */
const UNKNOWN: Asked = { type: "any value" };

/** What stays of a value when it goes to another field: what was said here and is no value there is said anew. */
function carried(kept: Kept, before: Asked, now: Asked): Kept {
  const was = readValue(kept, before.type);
  if (was.from !== "here") return { text: kept.text, value: kept.value };
  const again = keptValue(was, now.type, true);
  const fits =
    readValue(again, now.type).from === "here" &&
    (!now.choices || now.choices.includes(was.said)) &&
    before.type === now.type;
  return fits ? again : { text: "", value: undefined };
}

/** What an update sets, each with a value by the field's type. */
export function Assignments({
  step,
  version,
  onChange,
}: {
  step: Extract<Step, { kind: "update" }>;
  version: Version;
  onChange: (s: Step) => void;
}) {
  const catalogue = useCatalogue().data;
  const { directory } = useNames();
  const states = [...new Set(Object.values(directory?.states ?? {}).flat())];
  const targets: { path: string; field: Pick<Field, "type" | "choices" | "label"> }[] = [
    ...(catalogue?.paths ?? [])
      .filter((p) => (p.path.startsWith("ticket.") || p.path.startsWith("ci.")) && !SETTABLE_NOT.has(p.path))
      .map((p) => ({
        path: p.path,
        field:
          p.path === "ticket.state" && states.length > 0
            ? { ...p.field, type: "choice" as const, choices: states }
            : p.path === "ci.life"
              ? { ...p.field, type: "choice" as const, choices: LIVES }
              : p.field,
      })),
    ...version.vars.map((v) => ({ path: `vars.${v.name}`, field: v })),
  ];
  const fieldOf = (path: string) => targets.find((t) => t.path === path)?.field ?? UNKNOWN;
  const makes = step.set.some((a) => a.target in MAKES);
  const set = (i: number, change: Partial<(typeof step.set)[number]>) =>
    onChange({ ...step, set: step.set.map((s, j) => (j === i ? { ...s, ...change } : s)) });
  return (
    <div className="flex flex-col gap-2">
      {(step.of !== undefined || (step.set.some((a) => a.target.startsWith("ci.")) && !makes)) && (
        <WhichCi of={step.of} version={version} onChange={(of) => onChange({ ...step, of })} />
      )}
      {step.set.map((a, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: an assignment has no name of its own
        <div key={i} className="flex flex-col gap-1.5 rounded-lg border border-hairline p-2">
          <Select
            label="Set"
            value={a.target}
            onChange={(picked) => set(i, { target: picked, ...carried(a, fieldOf(a.target), fieldOf(picked)) })}
            options={[
              ...(targets.some((t) => t.path === a.target) ? [] : [{ value: a.target, label: a.target }]),
              ...targets.map((t) => ({
                value: t.path,
                label: MAKES[t.path] ?? (t.path.startsWith("ci.") ? "CI: " : "") + t.field.label,
                detail: t.path,
              })),
            ]}
          />
          <ValueEditor
            key={a.target}
            label="to"
            field={fieldOf(a.target)}
            version={version}
            kept={{ text: a.text, value: a.value }}
            texts
            onChange={({ text, value }) => set(i, { text, value })}
          />
          {step.set.length > 1 && (
            <Button look="quiet" onClick={() => onChange({ ...step, set: step.set.filter((_, j) => j !== i) })}>
              Leave it out
            </Button>
          )}
        </div>
      ))}
      <Button onClick={() => onChange({ ...step, set: [...step.set, { target: "ticket.group", text: "" }] })}>
        Set one more
      </Button>
    </div>
  );
}

/** The CI whose values are set. @param of an expression for its id; undefined for the ticket's own */
function WhichCi({
  of,
  version,
  onChange,
}: {
  of: string | undefined;
  version: Version;
  onChange: (of: string | undefined) => void;
}) {
  return (
    <div className="flex flex-col gap-1.5">
      <Select
        label="Values of the CI are of"
        value={of === undefined ? "own" : "other"}
        options={[
          { value: "own", label: "the ticket’s CI" },
          { value: "other", label: "another CI", detail: "such as each of those beside it" },
        ]}
        onChange={(picked) => onChange(picked === "own" ? undefined : "")}
      />
      {of !== undefined && (
        <ValueEditor
          label="Which CI"
          of="Which CI"
          field={{ type: "CI" }}
          version={version}
          kept={{ value: of }}
          onChange={({ value }) => onChange(value ?? "")}
        />
      )}
    </div>
  );
}
