import { useState } from "react";
import type { Ticket } from "../../api/types";
import { Button, Dialog, TextArea, Trouble } from "../../ui/kit";
import { useSend } from "./useSend";

/** Asks why, then takes the content of one entry away for good; the entry and its seal stay (D22). */
export function RedactDialog({ ticket, seq, onClose }: { ticket: Ticket; seq?: number; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const send = useSend(ticket.number, () => {
    setReason("");
    onClose();
  });
  return (
    <Dialog title={`Redact entry ${seq}`} open={seq !== undefined} onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ path: `/api/tickets/${ticket.number}/record/${seq}/redaction`, body: { reason } });
        }}
      >
        <p>
          Texts and values of this entry are taken off the record, off the ticket and off later exports, and nobody can
          bring them back. Who did it, when and what kind of entry it was stay, and the seal still holds.
        </p>
        <TextArea label="Why" rows={3} autoFocus required value={reason} onChange={(e) => setReason(e.target.value)} />
        <p className="text-sm text-ink-2">The reason goes onto the record: do not repeat in it what is taken away.</p>
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="danger" type="submit" disabled={send.isPending}>
            Redact it for good
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
