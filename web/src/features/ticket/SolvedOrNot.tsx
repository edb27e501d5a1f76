import { useState } from "react";
import type { Asked } from "../../api/types";
import { Button, TextArea, Trouble } from "../../ui/kit";
import { useSend } from "./useSend";

/** Whoever asked says whether it is solved (O4). What is written for a no is kept until it is sent. */
export function SolvedOrNot({ ticket, maySay }: { ticket: string; maySay: Asked["maySay"] }) {
  const store = `dastur-unsolved-${ticket}`;
  const [text, setText] = useState(() => sessionStorage.getItem(store) ?? "");
  const [saying, setSaying] = useState(text !== "");
  const send = useSend(ticket, () => {
    sessionStorage.removeItem(store);
    setText("");
    setSaying(false);
  });
  if (maySay.length === 0) return null;
  const say = (body: { solved: boolean; text?: string }) =>
    send.mutate({ path: `/api/tickets/${ticket}/solved`, body });
  return (
    <div className="mt-2">
      {saying ? (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            say({ solved: false, text });
          }}
        >
          <TextArea
            label="What still does not work?"
            rows={2}
            required
            autoFocus
            value={text}
            onChange={(e) => {
              setText(e.target.value);
              sessionStorage.setItem(store, e.target.value);
            }}
          />
          <div className="mt-2 flex gap-2">
            <Button look="primary" type="submit" disabled={send.isPending}>
              It is not solved
            </Button>
            <Button look="quiet" onClick={() => setSaying(false)}>
              Leave it
            </Button>
          </div>
        </form>
      ) : (
        <div className="flex flex-wrap gap-2">
          {maySay.includes("solved") && (
            <Button look="primary" disabled={send.isPending} onClick={() => say({ solved: true })}>
              It is solved
            </Button>
          )}
          {maySay.includes("solved") ? (
            <Button onClick={() => setSaying(true)}>Not solved…</Button>
          ) : (
            <button type="button" className="link text-sm" onClick={() => setSaying(true)}>
              Not solved…
            </button>
          )}
        </div>
      )}
      {send.isError && <Trouble error={send.error} />}
    </div>
  );
}
