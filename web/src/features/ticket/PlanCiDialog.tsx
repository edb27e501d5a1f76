import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { Ticket } from "../../api/types";
import { Button, Dialog, Input, Trouble } from "../../ui/kit";
import { attributesOf } from "../setup/attributes";
import { FieldInput, type FieldValue } from "./FieldInput";
import { useSend } from "./useSend";

/** Whether a CI can be wished for on a ticket: where somebody is to say yes to it. */
export const plansCis = (ticket: Pick<Ticket, "kind" | "ended">) =>
  !ticket.ended && (ticket.kind === "request" || ticket.kind === "change");

/** What is typed of a wish; kept until it is sent, since a dialog is closed by a slip of the hand. */
interface Typed {
  id: string;
  kind: string;
  values: Record<string, FieldValue>;
}

const NOTHING: Typed = { id: "", kind: "", values: {} };

/** Wishes for a CI inside a request or a change; the ticket is about it from then on (M17). */
export function PlanCiDialog({ ticket, onClose }: { ticket: string; onClose: () => void }) {
  const { directory } = useNames();
  const store = `dastur-wish-${ticket}`;
  const [typed, setTyped] = useState<Typed>(() => ({
    ...NOTHING,
    ...(JSON.parse(sessionStorage.getItem(store) ?? "{}") as Partial<Typed>),
  }));
  const { id, kind, values } = typed;
  const send = useSend(ticket, () => {
    sessionStorage.removeItem(store);
    onClose();
  });
  const type = (more: Partial<Typed>) => {
    const next = { ...typed, ...more };
    setTyped(next);
    sessionStorage.setItem(store, JSON.stringify(next));
  };
  const set = (name: string, value: FieldValue | undefined) => {
    const { [name]: _, ...others } = values;
    type({ values: value === undefined || value === "" ? others : { ...others, [name]: value } });
  };
  return (
    <Dialog title="What is to be there" open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ path: `/api/tickets/${ticket}/planned-ci`, body: { id, kind, values } });
        }}
      >
        <p className="text-ink-2">
          It is planned as a CI of this ticket. What stands here is a wish: whoever agrees sees it, and what comes
          otherwise is told later.
        </p>
        <div className="grid gap-3 sm:grid-cols-2">
          <Input
            label="What it is to be called"
            help="Its id, such as crew-7: no other CI has it."
            required
            autoFocus
            value={id}
            onChange={(e) => type({ id: e.target.value })}
          />
          <Input
            label="What it is"
            help="Its kind, such as machine, kiosk or gate."
            required
            value={kind}
            onChange={(e) => type({ kind: e.target.value })}
          />
          <Input label="Name" value={String(values.name ?? "")} onChange={(e) => set("name", e.target.value)} />
          <Input
            label="Where it stands"
            value={String(values.site ?? "")}
            onChange={(e) => set("site", e.target.value)}
          />
          {attributesOf(directory, kind).map((f) => (
            <FieldInput
              key={f.name}
              field={{ ...f, required: false }}
              value={values[f.name]}
              onChange={(value) => set(f.name, value as FieldValue | undefined)}
            />
          ))}
        </div>
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={send.isPending}>
            Plan it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
