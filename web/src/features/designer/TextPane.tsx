import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { api } from "../../api/client";
import { useCatalogue } from "../../api/hooks";
import type { Finding, NotationProblem, Version } from "../../api/types";
import { allSteps } from "../../route/ofVersion";
import { Button, Loading, Select, Trouble } from "../../ui/kit";
import { saveFile } from "./files";
import { type Mark, NotationEditor } from "./NotationEditor";
import { lineOf, stepAt } from "./notationMode";
import { knownPaths } from "./paths";

interface Read {
  version?: Version;
  problems: NotationProblem[];
}

interface FromFile extends Read {
  understood: string[];
  adapted: string[];
  leftOut: string[];
}

const FORMATS = [
  { value: "dastur", label: "text (.dastur)" },
  { value: "bpmn", label: "BPMN 2.0 (.bpmn)" },
  { value: "json", label: "JSON (.json)" },
];

/** How long after the last key the text is read, in milliseconds. */
const PAUSE = 350;

/**
 * Why the text is not taken over by itself: it came from a file, the route was changed while it could not be read, or it was
 * typed before and left so.
 */
type Held = "file" | "meanwhile" | "before";

/** What was read, as the next state of a draft: what the text says no more is gone, what is the draft's own stays. */
function inPlaceOf(version: Version, read: Version): Version {
  const made: Record<string, unknown> = { ...read, key: version.key, number: version.number };
  const order = [...Object.keys(version).filter((k) => k in made), ...Object.keys(made).filter((k) => !(k in version))];
  return Object.fromEntries(order.map((k) => [k, made[k]])) as unknown as Version;
}

/**
 * The draft as text, beside its route. Both are one thing: what is typed here and can be read is on the route a moment later, as
 * a change that can be undone; what is changed on the route is written here.
 */
export function TextPane({
  version,
  findings,
  selected,
  readOnly,
  onSelect,
  onApply,
  onClose,
}: {
  version: Version;
  findings: Finding[];
  selected: string | undefined;
  readOnly: boolean;
  onSelect: (step: string) => void;
  onApply: (version: Version) => void;
  onClose: () => void;
}) {
  const catalogue = useCatalogue().data;
  const written = useQuery({
    queryKey: ["text", version],
    queryFn: () => api.post<{ text: string }>("/api/notation/write", { version }),
    placeholderData: (before) => before,
  });
  const store = `dastur-text-${version.key}`;
  /** What is typed and not yet on the route; undefined while the text is the route's. */
  const [typed, setTypedOnly] = useState(() => sessionStorage.getItem(store) ?? undefined);
  const setTyped = (said: string | undefined) => {
    // What cannot be read yet outlives the pane.
    if (said === undefined) sessionStorage.removeItem(store);
    else sessionStorage.setItem(store, said);
    setTypedOnly(said);
  };
  const [held, setHeld] = useState<Held | undefined>(typed === undefined ? undefined : "before");
  const [problems, setProblems] = useState<NotationProblem[]>([]);
  /** The draft as this text made it, as far as the text still says so: it is not written anew under the cursor. */
  const own = useRef<{ version: string; text: string }>(undefined);
  const now = JSON.stringify(version);
  const ofRoute = own.current?.version === now ? own.current.text : written.data?.text;
  const text = typed ?? ofRoute;

  const read = useMutation({
    mutationFn: (said: string) => api.post<Read>("/api/notation/read", { text: said, number: version.number }),
  });
  /** What a person asked to take over, while it is read. */
  const asking = useRef<string>(undefined);
  const closed = useRef(false);
  useEffect(() => {
    closed.current = false;
    return () => {
      closed.current = true;
    };
  }, []);
  /** @param asked whether a person said so, whatever the route says meanwhile */
  const takeOver = async (said: string, asked = false, leave = false) => {
    // What a person asked for is not read a second time by itself meanwhile.
    if (!asked && asking.current === said) return;
    if (asked) asking.current = said;
    const answer = await read.mutateAsync(said).catch(() => undefined);
    if (asked) asking.current = undefined;
    // Whoever closed the pane goes on at the route: what comes late must not change it under their hands. It is kept, and asked about.
    if (!answer || closed.current) return;
    setProblems(answer.problems);
    if (!answer.version || latest.current !== said || (!asked && route.current !== now)) return;
    const made = inPlaceOf(version, answer.version);
    own.current = { version: JSON.stringify(made), text: said };
    setTyped(undefined);
    setHeld(undefined);
    fromFile.reset();
    if (JSON.stringify(made) !== now) onApply(made);
    if (leave) onClose();
  };
  const route = useRef(now);
  route.current = now;
  const latest = useRef(text);
  latest.current = text;
  const take = useRef(takeOver);
  take.current = takeOver;
  // Read once somebody pauses.
  useEffect(() => {
    if (typed === undefined || held !== undefined) return;
    const timer = setTimeout(() => take.current(typed), PAUSE);
    return () => clearTimeout(timer);
  }, [typed, held]);
  // The route was changed while what stands here is not on it: neither may overwrite the other unasked.
  const before = useRef(now);
  useEffect(() => {
    if (before.current !== now && typed !== undefined && own.current?.version !== now) setHeld("meanwhile");
    before.current = now;
  }, [now, typed]);

  const file = useRef<HTMLInputElement>(null);
  /** A file becomes the text, so that there is one way into the draft; it is looked at before it is taken over. */
  const fromFile = useMutation({
    mutationFn: async (chosen: File) => {
      const answer = await api.post<FromFile>("/api/files/workflow/read", {
        name: chosen.name,
        text: await chosen.text(),
      });
      const made = answer.version
        ? await api.post<{ text: string }>("/api/notation/write", {
            version: { ...answer.version, key: version.key, number: version.number },
          })
        : { text: await chosen.text() };
      return { ...answer, text: made.text };
    },
    onSuccess: (answer) => {
      setHeld("file");
      setTyped(answer.text);
      setProblems(answer.problems);
    },
  });
  const save = useMutation({
    mutationFn: (format: string) =>
      api.post<{ name: string; type: string; text: string }>("/api/files/workflow/write", { version, format }),
    onSuccess: saveFile,
  });

  const steps = useMemo(() => new Map(allSteps(version.body.steps).map((s) => [s.id, s.name])), [version]);
  const known = useMemo(() => knownPaths(version, catalogue), [version, catalogue]);
  const marks = useMemo<Mark[]>(
    () =>
      text === undefined
        ? []
        : [
            ...problems.map((p) => ({
              line: p.line,
              column: p.column,
              message: p.proposal ? `${p.message} Perhaps “${p.proposal}”?` : p.message,
              grave: true,
            })),
            ...findings.map((f) => ({
              line: f.step ? lineOf(text, f.step) : 1,
              column: 0,
              message: f.message,
              grave: f.severity === "blocks",
            })),
          ],
    [text, problems, findings],
  );
  const trouble = read.error ?? fromFile.error ?? save.error;
  return (
    <section aria-label="Text" className="flex h-full min-h-0 flex-col">
      <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-hairline px-3 py-2">
        <h2 className="font-bold">As text</h2>
        <span role="status" className="min-w-0 flex-1 text-sm text-ink-2">
          {readOnly
            ? "Only process owners can change it."
            : typed === undefined
              ? "What you type is on the route at once."
              : problems.length > 0
                ? "The route shows the last that could be read."
                : held
                  ? ""
                  : "…"}
        </span>
        <Select
          label="Save as a file"
          hideLabel
          value=""
          placeholder="Save as…"
          onChange={(format) => save.mutate(format)}
          options={FORMATS}
        />
        {!readOnly && <Button onClick={() => file.current?.click()}>From a file…</Button>}
        <input
          ref={file}
          type="file"
          accept=".dastur,.txt,.json,.bpmn,.xml"
          aria-label="Workflow file"
          className="hidden"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) fromFile.mutate(chosen);
            e.target.value = "";
          }}
        />
        <Button look="quiet" aria-label="Close the text" title="t" onClick={onClose}>
          ✕
        </Button>
      </div>
      {held && typed !== undefined && (
        <div
          role="alert"
          className="flex shrink-0 flex-wrap items-center gap-2 border-b border-soon bg-selected px-3 py-2"
        >
          <span className="min-w-0 flex-1">
            {held === "file"
              ? "This is what the file says. Nothing of it is on the route yet."
              : held === "before"
                ? "This was typed here before and is not on the route."
                : "The route was changed while this text could not be read. Which of the two is right?"}
          </span>
          <Button look="primary" disabled={read.isPending} onClick={() => takeOver(typed, true)}>
            Take it over
          </Button>
          <Button
            onClick={() => {
              setTyped(undefined);
              setHeld(undefined);
              setProblems([]);
              fromFile.reset();
            }}
          >
            Show the route’s text
          </Button>
        </div>
      )}
      {written.isLoadingError && <Trouble error={written.error} onRetry={() => written.refetch()} />}
      {text === undefined ? (
        !written.isLoadingError && <Loading what="the text" />
      ) : (
        <NotationEditor
          text={text}
          readOnly={readOnly}
          marks={marks}
          chosen={selected ? lineOf(text, selected) : 0}
          steps={steps}
          known={known}
          onType={setTyped}
          onLine={(line) => {
            const step = stepAt(text, line, new Set(steps.keys()));
            if (step && step !== selected) onSelect(step);
          }}
          onTakeOver={() => (typed === undefined ? onClose() : takeOver(typed, true, true))}
        />
      )}
      {problems.length > 0 && (
        <ul
          role="alert"
          className="max-h-32 shrink-0 overflow-auto border-t border-hairline px-3 py-1.5 text-sm text-late"
        >
          {problems.map((p) => (
            <li key={`${p.line}:${p.column}:${p.message}`}>
              Line {p.line}, column {p.column}: {p.message}
              {p.proposal && <span className="text-ink-2"> Perhaps “{p.proposal}”?</span>}
            </li>
          ))}
        </ul>
      )}
      {trouble && (
        <div className="shrink-0 px-3">
          <Trouble error={trouble} />
        </div>
      )}
      {fromFile.data && <Account of={fromFile.data} />}
      {!readOnly && (
        <p className="shrink-0 border-t border-hairline px-3 py-1 text-xs text-ink-2">
          <kbd className="font-mono">Ctrl Space</kbd> what can stand here · <kbd className="font-mono">Ctrl Enter</kbd>{" "}
          back to the route · <kbd className="font-mono">Tab</kbd> leaves the text
        </p>
      )}
    </section>
  );
}

/** What was made of another program's file, in plain words. */
function Account({ of }: { of: FromFile }) {
  if (of.understood.length + of.adapted.length + of.leftOut.length === 0) return null;
  const lists = [
    { title: "Adapted: look at these", items: of.adapted, tone: "text-soon" },
    { title: "Left out", items: of.leftOut, tone: "text-late" },
    { title: "Understood", items: of.understood, tone: "text-ink-2" },
  ];
  return (
    <div role="status" className="max-h-40 shrink-0 overflow-auto border-t border-hairline p-2 text-sm">
      {lists
        .filter((l) => l.items.length > 0)
        .map((l) => (
          <details key={l.title} open={l.title !== "Understood"}>
            <summary className={`cursor-pointer font-semibold ${l.tone}`}>
              {l.title} ({l.items.length})
            </summary>
            <ul className="list-inside list-disc">
              {l.items.map((item) => (
                <li key={item}>{item}</li>
              ))}
            </ul>
          </details>
        ))}
    </div>
  );
}
