import { useState } from "react";
import { useCatalogue } from "../../api/hooks";
import type { Answer, Field, Rehearsal, Version } from "../../api/types";
import { Button } from "../../ui/kit";
import { useAsking } from "./asking";
import { stepOf } from "./model";
import { Said } from "./Said";

type Asked = Rehearsal["asked"][number];

/** The answers a rehearsal can be given at a step, below its row. */
export function AnswersAt({ version, step }: { version: Version; step: string }) {
  const { asked, answer } = useAsking();
  return (
    <>
      {asked
        .filter((a) => a.step === step)
        .map((a) => (
          <OneAnswer key={a.visit} version={version} asked={a} onAnswer={answer} />
        ))}
    </>
  );
}

function OneAnswer({ version, asked, onAnswer }: { version: Version; asked: Asked; onAnswer: (a: Answer) => void }) {
  const fields = useGiven(version, asked.step);
  const [values, setValues] = useState<Record<string, string>>();
  const given = values && Object.fromEntries(fields.flatMap((f) => typed(f, values[f.name] ?? "")));
  const say = (a: Answer) => onAnswer(given && Object.keys(given).length > 0 ? { ...a, values: given } : a);
  return (
    <section
      aria-label={`Answer ${asked.name}`}
      className="border-b border-selected-edge bg-selected px-5 py-2.5 md:pl-24"
    >
      {asked.item && <p className="mb-1 font-mono text-xs text-ink-2">{asked.item}</p>}
      {values && (
        <div className="mb-2 grid gap-2 sm:grid-cols-2">
          {fields.map((f) => (
            <div key={f.name}>
              <p className="mb-0.5 text-sm font-semibold text-ink-2">{f.label}</p>
              <Said
                field={f}
                label={f.label}
                said={values[f.name] ?? ""}
                none="nothing"
                onChange={(said) => setValues({ ...values, [f.name]: said })}
              />
            </div>
          ))}
        </div>
      )}
      <div className="flex flex-wrap items-center gap-1.5">
        {asked.options.map((o, i) => (
          <Button
            key={answerWords(o)}
            look={i === 0 ? "primary" : "plain"}
            className="!py-0.5 text-sm"
            onClick={() => say(o)}
          >
            {answerWords(o)}
          </Button>
        ))}
        {fields.length > 0 && !values && (
          <button type="button" className="link text-sm" onClick={() => setValues({})}>
            with values…
          </button>
        )}
      </div>
    </section>
  );
}

/** What the step gives when it is answered: the fields of a form, or what a machine brings back. */
function useGiven(version: Version, id: string): Field[] {
  const catalogue = useCatalogue().data;
  const step = stepOf(version, id);
  if (step?.kind === "task") return step.form ?? [];
  if (step?.kind === "automation" || step?.kind === "capture")
    return (catalogue?.actions.find((a) => a.key === step.action)?.outputs ?? []).map((o) => o.field);
  return [];
}

/** What was said, as a value of its type; nothing where nothing was said. A list is said as JSON, or with commas. */
function typed(field: Field, said: string): [string, unknown][] {
  if (said.trim() === "") return [];
  switch (field.type) {
    case "whole number":
    case "number":
      return [[field.name, Number(said)]];
    case "yes or no":
      return [[field.name, said === "true"]];
    case "list":
    case "any value":
      return [[field.name, fromJson(said) ?? said.split(",").map((one) => one.trim())]];
    default:
      return [[field.name, said]];
  }
}

function fromJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** An answer as its button says it. */
export function answerWords(a: Answer): string {
  switch (a.says) {
    case "does":
      return a.exit ?? "does it";
    case "reviews":
      return a.exit ?? "reviews it";
    case "nothing":
      return "nobody answers";
    case "fails":
      return "it fails";
    default:
      return a.says;
  }
}
