import { useState } from "react";
import { Check } from "../../ui/Check";
import { Button, Dialog, TextArea, Trouble } from "../../ui/kit";
import { useSend } from "./useSend";

/** Adds a note to a ticket's record; what is typed stays until it is added. */
export function NoteDialog({ ticket, onClose }: { ticket: string; onClose: () => void }) {
  const store = `dastur-note-${ticket}`;
  const [text, setText] = useState(() => sessionStorage.getItem(store) ?? "");
  const [toRequester, setToRequester] = useState(false);
  const send = useSend(ticket, () => {
    sessionStorage.removeItem(store);
    setText("");
    onClose();
  });
  return (
    <Dialog title="Add a note" open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ path: `/api/tickets/${ticket}/notes`, body: { text, toRequester } });
        }}
      >
        <TextArea
          label="Note"
          rows={5}
          autoFocus
          required
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            sessionStorage.setItem(store, e.target.value);
          }}
        />
        <Check label="Meant for the requester" checked={toRequester} onChange={(picked) => setToRequester(picked)} />
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={send.isPending}>
            Add it to the record
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
