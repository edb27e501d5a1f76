import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Ticket } from "../../api/types";
import { Button, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";

const size = (bytes: number) =>
  bytes < 1000
    ? `${bytes} B`
    : bytes < 1_000_000
      ? `${Math.round(bytes / 1000)} kB`
      : `${(bytes / 1_000_000).toFixed(1)} MB`;

/** Files and pictures on a ticket, and attaching more: chosen, dropped or pasted. */
export function Files({ ticket, mayAttach }: { ticket: Ticket; mayAttach: boolean }) {
  const names = useNames();
  const now = useNow();
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const attach = useMutation({
    mutationFn: async (files: File[]) => {
      for (const file of files)
        await api.upload(`/api/tickets/${ticket.number}/files?name=${encodeURIComponent(file.name)}`, file);
    },
    onSettled: () => {
      queries.invalidateQueries({ queryKey: ["ticket", ticket.number] });
      queries.invalidateQueries({ queryKey: ["record", ticket.number] });
    },
  });
  const take = (list: FileList | null | undefined) => {
    const files = [...(list ?? [])];
    if (files.length > 0) attach.mutate(files);
  };
  if (ticket.files.length === 0 && !mayAttach) return null;
  return (
    <section
      aria-label="Files"
      className="mt-6"
      onDragOver={(e) => mayAttach && e.preventDefault()}
      onDrop={(e) => {
        if (!mayAttach) return;
        e.preventDefault();
        take(e.dataTransfer.files);
      }}
      onPaste={(e) => mayAttach && take(e.clipboardData.files)}
    >
      <div className="mb-1 flex items-center justify-between">
        <h2 className="font-bold">Files</h2>
        {mayAttach && (
          <Button look="quiet" disabled={attach.isPending} onClick={() => chooser.current?.click()}>
            {attach.isPending ? "Attaching…" : "Attach…"}
          </Button>
        )}
      </div>
      <input
        ref={chooser}
        type="file"
        multiple
        hidden
        aria-label="Attach files"
        onChange={(e) => {
          take(e.target.files);
          e.target.value = "";
        }}
      />
      {ticket.files.length === 0 && <p className="text-sm text-ink-2">None yet. Drop or paste pictures here.</p>}
      <ul>
        {ticket.files.map((f) => {
          const href = `/api/tickets/${ticket.number}/files/${f.hash}`;
          return (
            <li key={f.seq} className="border-b border-hairline py-1.5">
              {f.name === undefined ? (
                <span className="text-ink-2">taken off the record</span>
              ) : (
                <a className="link break-all" href={href} target="_blank" rel="noreferrer">
                  {f.name}
                </a>
              )}
              {f.name !== undefined && f.type.startsWith("image/") && (
                <a href={href} target="_blank" rel="noreferrer" className="my-1 block">
                  <img src={href} alt={f.name} className="max-h-32 rounded-md border border-hairline" loading="lazy" />
                </a>
              )}
              <p className="text-xs text-ink-2" title={`SHA-256 ${f.hash}`}>
                {size(f.size)} · {f.by ? names.person(f.by) : "taken by an automated step"} ·{" "}
                <span title={exact(f.at)}>{moment(f.at, now)}</span>
                {f.toRequester && " · the requester sees it"}
              </p>
            </li>
          );
        })}
      </ul>
      {attach.isError && <Trouble error={attach.error} />}
    </section>
  );
}
