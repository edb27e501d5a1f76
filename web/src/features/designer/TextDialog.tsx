import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { NotationProblem, Version } from "../../api/types";
import { Button, Dialog, Loading, Trouble } from "../../ui/kit";

interface Read {
  version?: Version;
  problems: NotationProblem[];
}

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
  const problems = read.data?.problems ?? [];
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
          {read.isError && <Trouble error={read.error} />}
          <div className="mt-3 flex items-center gap-2">
            {!readOnly && (
              <Button look="primary" disabled={!changed || read.isPending} onClick={() => read.mutate()}>
                Take it over
              </Button>
            )}
            <Button
              onClick={() => {
                const link = document.createElement("a");
                link.href = URL.createObjectURL(new Blob([text], { type: "text/plain" }));
                link.download = `${version.key}.dastur`;
                link.click();
                URL.revokeObjectURL(link.href);
              }}
            >
              Save as a file
            </Button>
            <span className="text-sm text-ink-2">
              {readOnly ? "Only process owners can change it." : "Ctrl Enter takes it over; Undo brings back what was."}
            </span>
          </div>
        </>
      )}
    </Dialog>
  );
}
