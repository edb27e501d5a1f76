import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, ProblemError } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Action, ActionTry, Trying } from "../../api/types";
import { Button, Chip, Input, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { isTable, ValueTable } from "../../ui/ValueTable";
import { FormFields, type FormValues } from "../ticket/FormFields";
import { valueWords } from "../ticket/words";
import { AnswerTree } from "./AnswerTree";
import { withOutput } from "./answer";
import { took } from "./figures";
import { limitWords } from "./Limits";

/** Tries an action as it is typed now: dry, which sends nothing, or in earnest (M3). */
export function TryPane({
  draft,
  tries,
  onChange,
}: {
  draft: Action;
  /** The last ones in earnest, newest first. */
  tries: ActionTry[];
  onChange: (next: Action) => void;
}) {
  const [inputs, setInputs] = useState<FormValues>({});
  const [why, setWhy] = useState("");
  const [shownTry, setShownTry] = useState<string>();
  // The same until an answer came: asked again after a line that broke, it is not sent twice.
  const id = useRef(crypto.randomUUID());
  const queries = useQueryClient();
  const path = `/api/actions/${draft.key}`;
  const given = Object.fromEntries(
    Object.entries(inputs).filter(([name]) => draft.inputs.some((f) => f.name === name)),
  );
  const dry = useMutation({
    mutationFn: () => api.post<{ text: string }>(`${path}/dry`, { action: draft, inputs: given }),
  });
  const earnest = useMutation({
    mutationFn: () =>
      api.put<Trying>(`${path}/tries/${id.current}`, { action: draft, inputs: given, why: why.trim() || undefined }),
    onSuccess: ({ tried }) => {
      id.current = crypto.randomUUID();
      dry.reset();
      setWhy("");
      setShownTry(tried.id);
    },
  });
  const trouble = dry.error ?? earnest.error;
  const where = trouble instanceof ProblemError ? trouble.problem.where : undefined;
  return (
    <section aria-label="Try it">
      <h2 className="mb-1 font-bold">Try it</h2>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          earnest.reset();
          dry.mutate();
        }}
      >
        {draft.inputs.length === 0 ? (
          <p className="text-sm text-ink-2">It asks for nothing.</p>
        ) : (
          <FormFields
            fields={draft.inputs.map((f) => {
              const limit = draft.limits?.[f.name];
              return limit ? { ...f, help: [f.help, `Only ${limitWords(limit)}.`].filter(Boolean).join(" ") } : f;
            })}
            values={inputs}
            onChange={setInputs}
          />
        )}
        {draft.changesWorld && (
          <Input
            label="Why it is tried in earnest, for the journal"
            value={why}
            problem={where === "why" && trouble instanceof ProblemError ? trouble.problem.detail : undefined}
            onChange={(e) => setWhy(e.target.value)}
          />
        )}
        <div className="flex flex-wrap gap-2">
          <Button type="submit" disabled={dry.isPending}>
            Show what would be sent
          </Button>
          <Button
            look={draft.changesWorld ? "danger" : "primary"}
            disabled={earnest.isPending || (draft.changesWorld && !why.trim())}
            onClick={() => {
              dry.reset();
              earnest.mutate();
            }}
          >
            {draft.changesWorld ? "Send it: it changes the world" : "Send it"}
          </Button>
        </div>
      </form>
      {trouble && where !== "why" && (
        <div className="mt-2">
          <Trouble error={trouble} />
        </div>
      )}
      {dry.data && (
        <div role="status" className="mt-3">
          <p className="text-sm font-semibold">This would be sent. Nothing was.</p>
          <pre className="mt-1 max-h-60 overflow-auto rounded-lg bg-here p-2 text-xs break-all whitespace-pre-wrap">
            {dry.data.text}
          </pre>
        </div>
      )}
      {shownTry && (
        <OneTry
          key={shownTry}
          draft={draft}
          id={shownTry}
          onChange={onChange}
          onOver={() => queries.invalidateQueries({ queryKey: ["action", draft.key] })}
        />
      )}
      <Before tries={tries.filter((t) => t.id !== shownTry)} onShow={setShownTry} />
    </section>
  );
}

const TONES: Record<string, "late" | "soon"> = { failed: "late", unsure: "soon" };

/** One try: what it says while it goes on, then what came of it. */
function OneTry({
  draft,
  id,
  onChange,
  onOver,
}: {
  draft: Action;
  id: string;
  onChange: (next: Action) => void;
  onOver: () => void;
}) {
  const [told, setTold] = useState(false);
  const trying = useQuery({
    queryKey: ["try", draft.key, id],
    queryFn: async () => {
      const now = await api.get<Trying>(`/api/actions/${draft.key}/tries/${id}`);
      if (now.tried.said !== "under way" && !told) {
        setTold(true);
        onOver();
      }
      return now;
    },
    refetchInterval: (q) => (q.state.data && q.state.data.tried.said !== "under way" ? false : 500),
  });
  if (!trying.data) return null;
  const { tried, log } = trying.data;
  const read = new Map(draft.outputs.map((o) => [o.pointer, o.field.label]));
  const answer = parsed(tried.answer);
  return (
    <div role="status" aria-label="What came of it" className="mt-3 rounded-xl border border-hairline p-3">
      <p className="flex flex-wrap items-baseline gap-2">
        <Chip tone={TONES[tried.said] ?? (tried.said === "under way" ? "plain" : "well")}>{tried.said}</Chip>
        {tried.millis !== undefined && tried.millis !== null && (
          <span className="text-sm text-ink-2">after {took(tried.millis)}</span>
        )}
      </p>
      {tried.why && <p className="mt-1">{tried.why}</p>}
      {tried.said === "unsure" && (
        <p className="mt-1 text-sm text-ink-2">
          It may have happened. Look at the other side before you send it again.
        </p>
      )}
      {Object.entries(tried.gave ?? {}).map(([name, value]) => (
        <div key={name} className="mt-1 text-sm">
          <span className="font-semibold">{draft.outputs.find((o) => o.field.name === name)?.field.label ?? name}</span>{" "}
          {isTable(value) ? (
            <ValueTable rows={value} words={valueWords} />
          ) : (
            <span className="break-all whitespace-pre-wrap">{valueWords(value)}</span>
          )}
        </div>
      ))}
      {answer !== undefined && (
        <details className="mt-2" open>
          <summary className="cursor-pointer text-sm font-semibold">The answer</summary>
          <div className="max-h-72 overflow-auto">
            <AnswerTree
              value={answer}
              read={read}
              onPick={(pointer, value) => onChange(withOutput(draft, pointer, value))}
            />
          </div>
        </details>
      )}
      {log.text && (
        <details className="mt-2" open={tried.said === "under way"}>
          <summary className="cursor-pointer text-sm font-semibold">What it said</summary>
          <pre className="max-h-60 overflow-auto text-xs break-all whitespace-pre-wrap">{log.text}</pre>
        </details>
      )}
      <details className="mt-2">
        <summary className="cursor-pointer text-sm font-semibold">What was sent</summary>
        <pre className="max-h-60 overflow-auto text-xs break-all whitespace-pre-wrap">{tried.sent}</pre>
      </details>
    </div>
  );
}

function parsed(json: string | undefined | null): unknown {
  if (!json) return undefined;
  try {
    const value: unknown = JSON.parse(json);
    return value !== null && typeof value === "object" ? value : undefined;
  } catch {
    return undefined;
  }
}

/** What was tried before: a click shows it again, to point outputs at its answer. */
function Before({ tries, onShow }: { tries: ActionTry[]; onShow: (id: string) => void }) {
  const now = useNow();
  const names = useNames();
  if (tries.length === 0) return null;
  return (
    <div className="mt-3">
      <h3 className="text-sm font-semibold text-ink-2">Tried before</h3>
      <ul className="text-sm">
        {tries.map((t) => (
          <li key={t.id}>
            <button type="button" className="link" onClick={() => onShow(t.id)}>
              {moment(t.begunAt, now)}
            </button>{" "}
            {names.person(t.person)}: <span className={t.said === "failed" ? "text-late" : ""}>{t.said}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
