import { useQuery } from "@tanstack/react-query";
import { diffLines, diffWordsWithSpace } from "diff";
import { useState } from "react";
import { api } from "../../api/client";
import type { Step, Version, Workflow } from "../../api/types";
import { allSteps } from "../../route/ofVersion";
import { Button, Dialog, Loading, Select, Trouble } from "../../ui/kit";

export type Marks = Map<string, "new" | "changed" | "moved">;

/** Which steps differ between two versions: by id, so that a renamed step is a changed one. */
export function compareSteps(before: Version, after: Version): { marks: Marks; gone: Step[] } {
  const marks: Marks = new Map();
  const old = new Map(allSteps(before.body.steps).map((s) => [s.id, s]));
  const own = (s: Step) =>
    JSON.stringify({ ...s, ways: undefined, body: undefined, lanes: "lanes" in s ? s.lanes.map((l) => l.name) : 0 });
  const ways = (s: Step) => JSON.stringify(s.kind === "end" ? {} : Object.entries(s.ways).sort());
  for (const step of allSteps(after.body.steps)) {
    const was = old.get(step.id);
    if (!was) marks.set(step.id, "new");
    else if (own(was) !== own(step)) marks.set(step.id, "changed");
    else if (ways(was) !== ways(step)) marks.set(step.id, "moved");
  }
  const now = new Set(allSteps(after.body.steps).map((s) => s.id));
  return { marks, gone: [...old.values()].filter((s) => !now.has(s.id)) };
}

const WORDS = { new: "new", changed: "changed", moved: "leads elsewhere" } as const;

/** Two versions side by side: what was added, taken away and changed, and the words that did; marks go onto the route. */
export function CompareDialog({
  workflow,
  current,
  onMarks,
  onSelect,
  onClose,
}: {
  workflow: Workflow;
  current: Version;
  onMarks: (marks: Marks | undefined) => void;
  onSelect: (step: string) => void;
  onClose: () => void;
}) {
  const numbers = workflow.versions.map((v) => v.number);
  const [before, setBefore] = useState(workflow.liveVersion ?? numbers[0]);
  const [after, setAfter] = useState<number>();
  const fetch = (number: number | undefined) => ({
    queryKey: ["version", workflow.key, number],
    queryFn: () => api.get<Version>(`/api/workflows/${workflow.key}/versions/${number}`),
    enabled: number !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const old = useQuery(fetch(before));
  const other = useQuery(fetch(after));
  const next = after === undefined ? current : other.data;
  const texts = useQuery({
    queryKey: ["texts", old.data, next],
    queryFn: () =>
      Promise.all([old.data, next].map((version) => api.post<{ text: string }>("/api/notation/write", { version }))),
    enabled: old.data !== undefined && next !== undefined,
  });
  const found = old.data && next ? compareSteps(old.data, next) : undefined;
  const names = new Map(next ? allSteps(next.body.steps).map((s) => [s.id, s.name]) : []);
  return (
    <Dialog title="Compare versions" open wide onClose={onClose}>
      <div className="mb-3 flex items-end gap-3">
        <Select
          label="From"
          value={String(before)}
          onChange={(picked) => setBefore(Number(picked))}
          options={numbers.map((n) => ({ value: String(n), label: `version ${n}` }))}
        />
        <Select
          label="to"
          value={after === undefined ? "" : String(after)}
          onChange={(picked) => setAfter(picked ? Number(picked) : undefined)}
          options={[
            { value: "", label: "what stands here now" },
            ...numbers.map((n) => ({ value: String(n), label: `version ${n}` })),
          ]}
        />
      </div>
      {old.isError && <Trouble error={old.error} />}
      {!found && !old.isError && <Loading what="the versions" />}
      {found && (
        <>
          {found.marks.size === 0 && found.gone.length === 0 && <p>No step differs.</p>}
          <ul className="mb-3">
            {[...found.marks].map(([id, mark]) => (
              <li key={id}>
                <button
                  type="button"
                  className="hover:underline"
                  onClick={() => {
                    onMarks(found.marks);
                    onSelect(id);
                    onClose();
                  }}
                >
                  <strong className={mark === "new" ? "text-well" : "text-soon"}>{WORDS[mark]}</strong> {names.get(id)}
                </button>
              </li>
            ))}
            {found.gone.map((s) => (
              <li key={s.id}>
                <strong className="text-late">taken away</strong> {s.name}
              </li>
            ))}
          </ul>
          {after === undefined && found.marks.size > 0 && (
            <Button
              onClick={() => {
                onMarks(found.marks);
                onClose();
              }}
            >
              Show them on the route
            </Button>
          )}
        </>
      )}
      {texts.isError && <Trouble error={texts.error} />}
      {texts.data?.[0] && texts.data[1] && <TextDiff before={texts.data[0].text} after={texts.data[1].text} />}
    </Dialog>
  );
}

/** Every line behind its sign, so that all texts begin in one column (D15). */
export const marked = (sign: string, text: string) =>
  text
    .replace(/\n$/, "")
    .split("\n")
    .map((line) => `${sign} ${line}`)
    .join("\n");

/** The lines that differ, with the words that changed, and a line of what is around them. */
function TextDiff({ before, after }: { before: string; after: string }) {
  const parts = diffLines(before, after);
  return (
    <pre className="mt-3 overflow-auto font-mono text-xs leading-5 whitespace-pre-wrap">
      {parts.map((part, i) => {
        const replaced = part.removed && parts[i + 1]?.added ? parts[i + 1] : undefined;
        const key = `${i}${part.added}${part.removed}`;
        if (replaced) return <Words key={key} before={part.value} after={replaced.value} />;
        if (part.added && parts[i - 1]?.removed) return null;
        if (part.added)
          return (
            <ins key={key} className="block bg-selected no-underline">
              {marked("+", part.value)}
            </ins>
          );
        if (part.removed)
          return (
            <del key={key} className="block text-late">
              {marked("−", part.value)}
            </del>
          );
        const lines = part.value.split("\n").filter((l) => l.trim() !== "");
        return lines.length > 3 ? (
          <span key={key} className="block text-ink-2">
            {marked(" ", `${lines[0]}\n… ${lines.length - 2} lines the same …\n${lines.at(-1)}`)}
          </span>
        ) : (
          <span key={key} className="block text-ink-2">
            {marked(" ", part.value)}
          </span>
        );
      })}
    </pre>
  );
}

function Words({ before, after }: { before: string; after: string }) {
  return (
    <span className="block pl-[2ch]">
      {diffWordsWithSpace(before, after).map((w, i) => {
        const key = `${i}${w.value}`;
        if (w.added)
          return (
            <ins key={key} className="bg-selected font-semibold no-underline">
              {w.value}
            </ins>
          );
        return w.removed ? (
          <del key={key} className="text-late">
            {w.value}
          </del>
        ) : (
          <span key={key}>{w.value}</span>
        );
      })}
    </span>
  );
}
