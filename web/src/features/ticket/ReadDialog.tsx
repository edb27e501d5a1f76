import { useState } from "react";
import type { Readable, Ticket } from "../../api/types";
import { Choices } from "../../ui/Choices";
import { Button, Dialog, Trouble } from "../../ui/kit";
import { FormFields, type FormValues } from "./FormFields";
import { useSend } from "./useSend";

/** Reads something by hand: what is chosen is asked at once, and what it says stands on the record. */
export function ReadDialog({
  ticket,
  readable,
  onClose,
}: {
  ticket: Ticket;
  readable: Readable[];
  onClose: () => void;
}) {
  const [key, setKey] = useState<string | undefined>(readable.length === 1 ? readable[0]?.key : undefined);
  const [inputs, setInputs] = useState<FormValues>(() =>
    about(ticket, readable.length === 1 ? readable[0] : undefined),
  );
  const chosen = readable.find((r) => r.key === key);
  const send = useSend(ticket.number, onClose);
  return (
    <Dialog title={`Read something for ${ticket.number}`} open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (chosen)
            send.mutate({ path: `/api/tickets/${ticket.number}/readings`, body: { action: chosen.key, inputs } });
        }}
      >
        <p className="text-sm text-ink-2">
          It only reads, and changes nothing. What it says stands on the record, with who asked.
        </p>
        <Choices
          label="What is read"
          value={key}
          onChange={(picked) => {
            setKey(picked);
            setInputs(
              about(
                ticket,
                readable.find((r) => r.key === picked),
              ),
            );
          }}
          className="flex max-h-[34vh] flex-col gap-1 overflow-auto"
          options={readable.map((r) => ({
            value: r.key,
            label: r.name,
            children: (
              <>
                <span className="block font-semibold">{r.name}</span>
                <span className="block text-sm text-ink-2">{r.description}</span>
              </>
            ),
          }))}
        />
        {chosen && chosen.inputs.length > 0 && (
          <FormFields fields={chosen.inputs} values={inputs} onChange={setInputs} />
        )}
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={!chosen || send.isPending}>
            {send.isPending ? "It is asked…" : chosen ? `Read “${chosen.name}”` : "Choose what is read"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** The ticket's own CI and service, where that is what is asked for. */
function about(ticket: Ticket, what: Readable | undefined): FormValues {
  const own: FormValues = {};
  for (const field of what?.inputs ?? []) {
    const value = field.type === "CI" ? ticket.fields.ci : field.type === "service" ? ticket.fields.service : undefined;
    if (typeof value === "string") own[field.name] = value;
  }
  return own;
}
