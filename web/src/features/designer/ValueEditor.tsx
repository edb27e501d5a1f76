import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useMemo, useState } from "react";
import { api } from "../../api/client";
import { useCatalogue, useNames } from "../../api/hooks";
import type { CiHit, Field, Version } from "../../api/types";
import { Input, Select, TextArea } from "../../ui/kit";
import { ExpressionInput } from "./ExpressionInput";
import { knownPaths, pathWords } from "./paths";
import { canBeSaid, type From, type Kept, keptValue, readValue, turned, type Value } from "./values";

type Asked = Pick<Field, "type" | "choices">;

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
  field: Asked;
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

/** A value that is chosen or typed, by its type. @param none what an empty one means; undefined where one is needed */
function Said({
  field,
  said,
  onChange,
  label = "Value",
  none,
}: {
  field: Asked;
  said: string;
  onChange: (said: string) => void;
  label?: string;
  none?: string;
}) {
  const names = useNames();
  const directory = names.directory;
  const choices = ((): { value: string; label: string }[] | undefined => {
    switch (field.type) {
      case "yes or no":
        return [
          { value: "true", label: "yes" },
          { value: "false", label: "no" },
        ];
      case "group":
        return (directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name }));
      case "person":
        return (directory?.people ?? []).map((p) => ({ value: p.id, label: p.name }));
      case "service":
        return (directory?.services ?? []).map((s) => ({ value: s.id, label: s.name }));
      default:
        return field.choices?.length ? field.choices.map((c) => ({ value: c, label: c })) : undefined;
    }
  })();
  if (choices) {
    const unknown = said !== "" && !choices.some((c) => c.value === said);
    return (
      <Select
        label={label}
        hideLabel
        value={said}
        placeholder={none}
        options={[
          ...(none ? [{ value: "", label: none }] : []),
          ...(unknown ? [{ value: said, label: `${said} (unknown)` }] : []),
          ...choices,
        ]}
        onChange={onChange}
      />
    );
  }
  if (field.type === "CI") return <SaidCi label={label} said={said} none={none} onChange={onChange} />;
  if (field.type === "long text")
    return (
      <TextArea
        label={label}
        hideLabel
        rows={2}
        value={said}
        placeholder={none}
        onChange={(e) => onChange(e.target.value)}
      />
    );
  const number = field.type === "whole number" || field.type === "number";
  return (
    <Input
      label={label}
      hideLabel
      type={number ? "number" : "text"}
      step={field.type === "number" ? "any" : undefined}
      value={said}
      placeholder={none}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}

/** One of very many: asked of the server by the letters typed. */
function SaidCi({
  label,
  said,
  none,
  onChange,
}: {
  label: string;
  said: string;
  none: string | undefined;
  onChange: (said: string) => void;
}) {
  const [text, setText] = useState("");
  const asked = useDeferredValue(text);
  const found = useQuery({
    queryKey: ["cis", asked],
    queryFn: () => api.get<CiHit[]>(`/api/cis?text=${encodeURIComponent(asked)}`),
    placeholderData: (before) => before,
  });
  return (
    <Select
      label={label}
      hideLabel
      value={said}
      placeholder={none ?? "choose a CI…"}
      onSearch={setText}
      options={[
        ...(none ? [{ value: "", label: none }] : []),
        ...(found.data ?? []).map((c) => ({ value: c.id, label: c.id, detail: c.name })),
      ]}
      onChange={onChange}
    />
  );
}
