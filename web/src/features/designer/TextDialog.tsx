import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api } from "../../api/client";
import type { NotationProblem, Version } from "../../api/types";
import { Button, Dialog, Loading, Select, Trouble } from "../../ui/kit";
import { saveFile } from "./files";

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

/** The draft as text. Both edit the same draft: taking the text over is one change, which can be undone. */
export function TextDialog({
  version,
  readOnly,
  onApply,
  onClose,
}: {
  version: Version;
  readOnly: boolean;
  onApply: (version: Version) => void;
  onClose: () => void;
}) {
  const written = useQuery({
    queryKey: ["text", version],
    queryFn: () => api.post<{ text: string }>("/api/notation/write", { version }),
  });
  const [text, setText] = useState<string>();
  useEffect(() => {
    if (written.data && text === undefined) setText(written.data.text);
  }, [written.data, text]);
  const read = useMutation({
    mutationFn: () => api.post<Read>("/api/notation/read", { text, number: version.number }),
    onSuccess: (answer) => {
      if (answer.version) {
        onApply({ ...answer.version, key: version.key, number: version.number });
        onClose();
      }
    },
  });
  const file = useRef<HTMLInputElement>(null);
  /** A file becomes the text, so that there is one way into the draft: taking the text over. */
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
      read.reset();
      setText(answer.text);
    },
  });
  const save = useMutation({
    mutationFn: (format: string) =>
      api.post<{ name: string; type: string; text: string }>("/api/files/workflow/write", { version, format }),
    onSuccess: saveFile,
  });
  const problems = read.data?.problems ?? fromFile.data?.problems ?? [];
  const changed = text !== undefined && text !== written.data?.text;
  return (
    <Dialog title="The workflow as text" open wide onClose={onClose}>
      {written.isPending && <Loading what="the text" />}
      {written.isError && <Trouble error={written.error} onRetry={() => written.refetch()} />}
      {text !== undefined && (
        <>
          <textarea
            aria-label="Notation"
            className="h-[52vh] w-full rounded-lg border border-hairline bg-sheet p-3 font-mono text-xs leading-5"
            spellCheck={false}
            readOnly={readOnly}
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
                e.preventDefault();
                read.mutate();
              }
            }}
          />
          {problems.length > 0 && (
            <ul role="alert" className="mt-2 max-h-32 overflow-auto text-sm text-late">
              {problems.map((p) => (
                <li key={`${p.line}:${p.column}:${p.message}`}>
                  Line {p.line}, column {p.column}: {p.message}
                  {p.proposal && <span className="text-ink-2"> Perhaps “{p.proposal}”?</span>}
                </li>
              ))}
            </ul>
          )}
          {(read.isError || fromFile.isError || save.isError) && (
            <Trouble error={read.error ?? fromFile.error ?? save.error} />
          )}
          {fromFile.data && <Account of={fromFile.data} />}
          <div className="mt-3 flex flex-wrap items-center gap-2">
            {!readOnly && (
              <Button look="primary" disabled={!changed || read.isPending} onClick={() => read.mutate()}>
                Take it over
              </Button>
            )}
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
            <span className="text-sm text-ink-2">
              {readOnly ? "Only process owners can change it." : "Ctrl Enter takes it over; Undo brings back what was."}
            </span>
          </div>
        </>
      )}
    </Dialog>
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
    <div role="status" className="mt-2 max-h-40 overflow-auto rounded-lg border border-hairline p-2 text-sm">
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
