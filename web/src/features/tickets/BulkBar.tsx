import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import { Button, Dialog, Input, Select, TextArea, Trouble } from "../../ui/kit";

interface Done {
  ticket: string;
  problem?: string;
}

/** What can be done to several tickets at once: giving them to somebody, and a note. Each says what became of it. */
export function BulkBar({ chosen, onClear }: { chosen: string[]; onClear: () => void }) {
  const [open, setOpen] = useState(false);
  if (chosen.length === 0) return null;
  return (
    <div
      role="status"
      className="flex flex-wrap items-center gap-3 border-b border-selected-edge bg-selected px-5 py-2"
    >
      <strong>{chosen.length === 1 ? "1 ticket chosen" : `${chosen.length} tickets chosen`}</strong>
      <Button onClick={() => setOpen(true)}>Give them to… or note…</Button>
      <button type="button" className="link" onClick={onClear}>
        choose none
      </button>
      {open && <BulkDialog chosen={chosen} onClose={() => setOpen(false)} onDone={onClear} />}
    </div>
  );
}

function BulkDialog({ chosen, onClose, onDone }: { chosen: string[]; onClose: () => void; onDone: () => void }) {
  const { directory } = useNames();
  const queries = useQueryClient();
  const [to, setTo] = useState("");
  const [note, setNote] = useState("");
  const [reason, setReason] = useState("");
  const save = useMutation({
    mutationFn: () => {
      const [kind, id] = [to.slice(0, 1), to.slice(2)];
      return api.post<{ done: Done[] }>("/api/bulk", {
        tickets: chosen,
        ...(to && { fields: kind === "g" ? { group: id, assignee: null } : { assignee: id } }),
        ...(note.trim() && { note }),
        ...(reason.trim() && { reason }),
      });
    },
    onSuccess: (result) => {
      queries.invalidateQueries({ queryKey: ["tickets"] });
      if (result.done.every((d) => !d.problem)) {
        onDone();
        onClose();
      }
    },
  });
  const left = save.data?.done.filter((d) => d.problem) ?? [];
  return (
    <Dialog title={`Together: ${chosen.length} ${chosen.length === 1 ? "ticket" : "tickets"}`} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <p className="max-h-24 overflow-auto text-ink-2">{chosen.join(", ")}</p>
        <Select
          label="Give them to"
          value={to}
          onChange={(picked) => setTo(picked)}
          options={[
            { value: "", label: "leave them where they are" },
            ...(directory?.groups ?? []).map((g) => ({ value: `g:${g.id}`, label: g.name })),
            ...(directory?.people ?? []).filter((p) => p.active).map((p) => ({ value: `p:${p.id}`, label: p.name })),
          ]}
        />
        {to && <Input label="Why" value={reason} onChange={(e) => setReason(e.target.value)} />}
        <TextArea
          label="Note on each"
          rows={3}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          help="Not meant for the requesters. Outcomes and decisions are given one by one."
        />
        {save.isError && <Trouble error={save.error} />}
        {left.length > 0 && (
          <ul className="text-late">
            {left.map((d) => (
              <li key={d.ticket}>
                {d.ticket}: {d.problem}
              </li>
            ))}
          </ul>
        )}
        <div>
          <Button look="primary" type="submit" disabled={save.isPending || (!to && !note.trim())}>
            Do it for {chosen.length}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
