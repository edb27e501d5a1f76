import { useMemo, useState } from "react";
import { useCatalogue } from "../../api/hooks";
import type { Field, Version } from "../../api/types";
import { Select } from "../../ui/kit";
import { ExpressionInput } from "./ExpressionInput";
import { knownPaths, pathWords } from "./paths";
import { Said, type Typed } from "./Said";
import { canBeSaid, type From, type Kept, keptValue, readValue, turned, type Value } from "./values";

/**
 * A value where a step sets one: said here by what fits its type, taken from what is known by then, a text with values in it,
 * and only then an expression.
 *
 * @param texts whether it may be a text with values in it
 */
export function ValueEditor({
  label,
  field,
  version,
  kept,
  onChange,
  texts = false,
  of,
}: {
  label: string;
  /** What the value is of, where several stand on one page: their fields are told apart by it. */
  of?: string;
  field: Typed;
  version: Version | undefined;
  kept: Kept;
  onChange: (kept: Kept) => void;
  texts?: boolean;
}) {
  const catalogue = useCatalogue().data;
  const known = useMemo(() => knownPaths(version, catalogue), [version, catalogue]);
  const words = pathWords(known);
  const [way, setWay] = useState<From>();
  const read = readValue(kept, field.type);
  // What is kept does not always say how somebody wants to say it: an empty value, an expression that is but a word.
  const value = shown(read, kept, way, field.type);
  const change = (next: Value) => onChange(keptValue(next, field.type, texts));
  const ways: { value: From; label: string }[] = [
    ...(canBeSaid(field.type) ? [{ value: "here" as const, label: "said here" }] : []),
    { value: "known", label: "what is known by then" },
    ...(texts ? [{ value: "words" as const, label: "a text with values" }] : []),
    { value: "expression", label: "by an expression" },
  ];
  const path = value.from === "known" ? value.path : "";
  const named = (part: string) => (of ? `${of}: ${part.toLowerCase()}` : part);
  return (
    <div className="flex flex-col gap-1.5">
      <Select
        label={label}
        value={value.from}
        options={ways}
        onChange={(picked) => {
          setWay(picked as From);
          change(turned(value, picked as From, field.type));
        }}
      />
      {value.from === "here" && (
        <Said
          field={field}
          label={named("Value")}
          said={value.said}
          onChange={(said) => change({ from: "here", said })}
        />
      )}
      {value.from === "known" && (
        <>
          <Select
            label={named("Which")}
            hideLabel
            value={path}
            placeholder="choose what…"
            options={[
              ...(path && !known.some((k) => k.path === path) ? [{ value: path, label: words(path) }] : []),
              ...known.map((k) => ({ value: k.path, label: k.says, detail: k.path })),
            ]}
            onChange={(picked) => change({ ...value, path: picked })}
          />
          {canBeSaid(field.type) && path && (
            <div className="flex items-center gap-2 text-sm">
              <span className="shrink-0 text-ink-2">if there is none</span>
              <div className="min-w-0 flex-1">
                <Said
                  field={field}
                  said={value.otherwise ?? ""}
                  label={named("If there is none")}
                  none="it stalls"
                  onChange={(otherwise) => change({ from: "known", path, ...(otherwise ? { otherwise } : {}) })}
                />
              </div>
            </div>
          )}
        </>
      )}
      {value.from === "words" && (
        <>
          <ExpressionInput
            label={named("Text")}
            hideLabel
            kind="text"
            rows={2}
            version={version}
            value={value.text}
            onChange={(text) => onChange({ text })}
          />
          <Select
            label={named("Put a value in")}
            hideLabel
            value=""
            placeholder="put a value in…"
            options={known.map((k) => ({ value: k.path, label: k.says, detail: k.path }))}
            onChange={(picked) =>
              onChange({ text: `${value.text}${/\S$/.test(value.text) ? " " : ""}{{ ${picked} }}` })
            }
          />
        </>
      )}
      {value.from === "expression" && (
        <ExpressionInput
          label={named("Value")}
          hideLabel
          kind="value"
          version={version}
          value={value.code}
          onChange={(code) => onChange({ value: code })}
        />
      )}
    </div>
  );
}

/** Of what nobody can say here what it is: it is taken from what is known by then, or worked out. */
export const TAKEN: Typed = { type: "list" };

/** A value that is kept as an expression alone: the same ways to say it. */
export function ValueOf({
  value,
  onChange,
  ...rest
}: {
  label: string;
  of?: string;
  field: Typed;
  version: Version | undefined;
  value: string;
  onChange: (code: string) => void;
}) {
  return <ValueEditor {...rest} kept={{ value }} onChange={(kept) => onChange(kept.value ?? "")} />;
}

function shown(read: Value, kept: Kept, way: From | undefined, type: Field["type"]): Value {
  if (way === "expression" && kept.text === undefined) return { from: "expression", code: kept.value ?? "" };
  if (way === "words" && kept.text !== undefined) return { from: "words", text: kept.text };
  return way && isEmpty(read) ? turned(read, way, type) : read;
}

const isEmpty = (value: Value) =>
  value.from === "here"
    ? value.said === ""
    : value.from === "known"
      ? value.path === ""
      : value.from === "words"
        ? value.text === ""
        : value.code === "";
