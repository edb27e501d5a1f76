import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { AtPartner, Difference } from "../../api/types";
import { useKeys } from "../../ui/keys";
import { Button, Input, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useSend } from "./useSend";
import { assignedWords, valueWords } from "./words";

/** What a partner sees otherwise: whoever has the ticket says what counts. */
export function DifferenceCard({
  difference: d,
  partner,
  ticket,
  keys,
}: {
  difference: Difference;
  partner: AtPartner;
  ticket: string;
  keys: boolean;
}) {
  const names = useNames();
  const now = useNow();
  const send = useSend(ticket);
  const [reason, setReason] = useState("");
  const settle = (takesTheirs: boolean) =>
    send.mutate({
      path: `/api/tickets/${ticket}/partners/${partner.partner}/differences`,
      body: { field: d.field, takesTheirs, ours: d.ours, word: d.word, ...(reason ? { reason } : {}) },
    });
  useKeys(keys ? { ...(d.takeable ? { "1": () => settle(true) } : {}), "2": () => settle(false) } : {});
  const theirs = d.theirs === undefined || d.theirs === null ? undefined : valueWords(d.theirs);
  return (
    <section aria-label={`${d.label}: what counts?`} className="rounded-xl border border-selected-edge bg-selected p-4">
      <h2 className="text-base font-bold">{d.label}: what counts?</h2>
      <p className="mt-1 text-ink-2">
        For {assignedWords(d.asked, names)} to say · {partner.name} {partner.id} · since {moment(d.at, now)}
      </p>
      <dl className="mt-3 grid max-w-xl grid-cols-2 gap-3">
        <div>
          <dt className="text-sm text-ink-2">We say</dt>
          <dd className="font-semibold wrap-anywhere">{d.ours ?? "nothing"}</dd>
        </div>
        <div>
          <dt className="text-sm text-ink-2">{partner.name} says</dt>
          <dd className="font-semibold wrap-anywhere">
            {d.word ?? "nothing"}
            {theirs !== undefined && theirs !== d.word && <span className="text-ink-2"> (here {theirs})</span>}
          </dd>
        </div>
      </dl>
      <p className="mt-2 wrap-anywhere">{d.why}</p>
      <div className="mt-2 max-w-xl">
        <Input
          label="Why (it stands on the record here, and does not go to them)"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
      </div>
      <div className="mt-3 flex flex-wrap gap-2">
        {d.takeable && (
          <Button look="primary" digit={keys ? 1 : undefined} disabled={send.isPending} onClick={() => settle(true)}>
            Take theirs{theirs !== undefined ? `: ${theirs}` : ""}
          </Button>
        )}
        <Button digit={keys ? 2 : undefined} disabled={send.isPending} onClick={() => settle(false)}>
          Keep ours{d.ours ? `: ${d.ours}` : ""}
        </Button>
      </div>
      {send.isError && <Trouble error={send.error} />}
    </section>
  );
}
