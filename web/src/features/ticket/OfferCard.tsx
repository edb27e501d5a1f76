import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { Offer } from "../../api/types";
import { useKeys } from "../../ui/keys";
import { Button, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { FormFields, type FormValues } from "./FormFields";
import { useSend } from "./useSend";
import { assignedWords } from "./words";

/** A workflow that a trigger proposes to start: started or not in one stroke. */
export function OfferCard({ offer, ticket, keys }: { offer: Offer; ticket: string; keys: boolean }) {
  const names = useNames();
  const now = useNow();
  const send = useSend(ticket);
  const [inputs, setInputs] = useState<FormValues>({});
  const asked = offer.asked.groups.length + offer.asked.people.length > 0;
  const answer = (start: boolean) =>
    send.mutate({
      path: `/api/tickets/${ticket}/proposals/${offer.trigger}`,
      body: { start, ...(start ? { inputs } : {}) },
    });
  useKeys(keys ? { "1": () => answer(true), "2": () => answer(false) } : {});
  return (
    <section
      aria-label={`Start ${offer.name}?`}
      className={`rounded-xl border p-4 ${asked ? "border-selected-edge bg-selected" : "border-hairline bg-sheet"}`}
    >
      <h2 className="text-base font-bold">Start “{offer.name}”?</h2>
      <p className="mt-1 text-ink-2">
        {asked ? `For ${assignedWords(offer.asked, names)} to say` : "Offered to whoever works on this"} · since{" "}
        {moment(offer.at, now)}
      </p>
      {offer.startForm.length > 0 && (
        <div className="mt-3">
          <FormFields fields={offer.startForm} values={inputs} onChange={setInputs} />
        </div>
      )}
      <div className="mt-3 flex flex-wrap gap-2">
        <Button look="primary" digit={keys ? 1 : undefined} disabled={send.isPending} onClick={() => answer(true)}>
          Start it
        </Button>
        <Button digit={keys ? 2 : undefined} disabled={send.isPending} onClick={() => answer(false)}>
          Do not start it
        </Button>
      </div>
      {send.isError && <Trouble error={send.error} />}
    </section>
  );
}
