import { Fragment, useState } from "react";
import { useReadable } from "../../api/hooks";
import type { Readable, Said, Ticket } from "../../api/types";
import { Choices } from "../../ui/Choices";
import { Button, Dialog, Loading, Trouble } from "../../ui/kit";
import { FormFields, type FormValues } from "./FormFields";
import { useSend } from "./useSend";
import { valueWords } from "./words";

/** Reads something by hand: what is chosen is asked at once, and what it says stands on the record. */
export function ReadDialog({ ticket, onClose }: { ticket: Ticket; onClose: () => void }) {
  const readable = useReadable();
  return (
    <Dialog title={`Read something for ${ticket.number}`} open onClose={onClose} wide>
      {readable.isPending && <Loading what="what can be read" />}
      {readable.isLoadingError && <Trouble error={readable.error} onRetry={() => readable.refetch()} />}
      {readable.data?.length === 0 && <p>Nothing is let to be read by hand just now.</p>}
      {readable.data && readable.data.length > 0 && (
        <Reading ticket={ticket} readable={readable.data} onClose={onClose} />
      )}
    </Dialog>
  );
}

function Reading({ ticket, readable, onClose }: { ticket: Ticket; readable: Readable[]; onClose: () => void }) {
  const [key, setKey] = useState<string | undefined>(readable.length === 1 ? readable[0]?.key : undefined);
  const [inputs, setInputs] = useState<FormValues>(() =>
    about(ticket, readable.length === 1 ? readable[0] : undefined),
  );
  const chosen = readable.find((r) => r.key === key);
  const send = useSend(ticket.number);
  const said = send.data as Said | undefined;
  return (
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
          send.reset();
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
      {chosen && chosen.inputs.length > 0 && <FormFields fields={chosen.inputs} values={inputs} onChange={setInputs} />}
      {send.isError && <Trouble error={send.error} />}
      {said && !send.isPending && <WhatItSaid said={said} />}
      <div>
        <Button look="primary" type="submit" disabled={!chosen || send.isPending}>
          {send.isPending ? "It is asked…" : chosen ? `Read “${chosen.name}”` : "Choose what is read"}
        </Button>
        {said && (
          <Button look="quiet" onClick={onClose}>
            Done
          </Button>
        )}
      </div>
    </form>
  );
}

/** What was said just now; it stands on the record by then. */
function WhatItSaid({ said }: { said: Said }) {
  const rows = Object.entries(said.outputs);
  return (
    <section role="status" aria-label="What it said" className="rounded-lg border border-hairline bg-sheet px-3 py-2">
      {said.read ? (
        <dl className="grid grid-cols-[auto_1fr] gap-x-4">
          {rows.map(([name, value]) => (
            <Fragment key={name}>
              <dt className="text-ink-2">{name}</dt>
              <dd className="min-w-0 font-semibold break-words whitespace-pre-wrap">{valueWords(value)}</dd>
            </Fragment>
          ))}
          {rows.length === 0 && <dd>It answered, and says nothing more.</dd>}
        </dl>
      ) : (
        <p>
          <strong className="text-late">It could not be read.</strong> {said.why}
        </p>
      )}
      <p className="mt-1 text-sm text-ink-2">It stands on the record, as entry {said.seq}.</p>
    </section>
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
