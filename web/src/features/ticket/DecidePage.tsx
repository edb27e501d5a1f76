import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { unsigned } from "../../api/client";
import type { DecisionView } from "../../api/types";
import { Button, Loading, TextArea, Trouble } from "../../ui/kit";
import { clock, day } from "../../ui/time";
import { Wordmark } from "../../ui/Wordmark";
import { valueWords } from "./words";

/** A decision by a link from a mail: opening it decides nothing; the same checks hold as on the Desk. */
export function DecidePage({ token }: { token: string }) {
  const path = `/api/decisions/${token}`;
  const asked = useQuery({
    queryKey: ["decision", token],
    queryFn: () => unsigned.get<DecisionView>(path),
    retry: false,
  });
  const [declining, setDeclining] = useState(false);
  const [comment, setComment] = useState("");
  const [said, setSaid] = useState<boolean>();
  const decide = useMutation({
    mutationFn: (approve: boolean) =>
      unsigned.post<DecisionView>(path, { approve, ...(comment.trim() ? { comment } : {}) }),
    onSuccess: (_, approve) => setSaid(approve),
    // Another may have been first, or what is shown has changed: the page then says so.
    onError: () => asked.refetch(),
  });
  const d = asked.data;
  return (
    <main className="mx-auto flex min-h-full max-w-xl flex-col gap-4 p-6">
      <Wordmark />
      {asked.isPending && <Loading what="what is asked" />}
      {asked.isLoadingError && <Trouble error={asked.error} />}
      {d && said !== undefined && (
        <section className="rounded-xl border border-hairline bg-sheet p-5">
          <h1 className="text-lg font-bold">{said ? "Approved. Thank you." : "Declined. Thank you."}</h1>
          <p className="mt-1 text-ink-2">
            Your answer to “{d.name}” is on the record of {d.ticket}. You can close this page.
          </p>
        </section>
      )}
      {d && said === undefined && (
        <section className="rounded-xl border border-selected-edge bg-selected p-5">
          <p className="text-sm text-ink-2">
            {d.ticket} · {d.title}
          </p>
          <h1 className="mt-1 text-lg font-bold">{d.name}</h1>
          {d.question && <p className="mt-1 whitespace-pre-wrap">{d.question}</p>}
          {!d.open && <p className="mt-3 font-semibold">{d.why}</p>}
          {d.open && (
            <>
              <dl className="mt-3">
                {d.shown.map((s) => (
                  <div key={s.path} className="flex justify-between gap-4 border-b border-hairline py-1">
                    <dt className="text-ink-2">{s.label}</dt>
                    <dd className="text-right font-medium">{valueWords(s.value)}</dd>
                  </div>
                ))}
              </dl>
              <p className="mt-2 text-sm text-ink-2">
                You decide as {d.person}
                {d.due && `, until ${day(d.due)}, ${clock(d.due)}`}.
              </p>
              {declining ? (
                <form
                  className="mt-3"
                  onSubmit={(e) => {
                    e.preventDefault();
                    decide.mutate(false);
                  }}
                >
                  <TextArea
                    label={d.commentOnDecline || d.commentAlways ? "Why (needed)" : "Why"}
                    required={d.commentOnDecline || d.commentAlways}
                    autoFocus
                    value={comment}
                    onChange={(e) => setComment(e.target.value)}
                  />
                  <div className="mt-2 flex gap-2">
                    <Button look="danger" type="submit" disabled={decide.isPending}>
                      Decline
                    </Button>
                    <Button look="quiet" onClick={() => setDeclining(false)}>
                      Back
                    </Button>
                  </div>
                </form>
              ) : (
                <>
                  {d.commentAlways && (
                    <div className="mt-3">
                      <TextArea
                        label="Why (needed)"
                        rows={2}
                        value={comment}
                        onChange={(e) => setComment(e.target.value)}
                      />
                    </div>
                  )}
                  <div className="mt-4 flex flex-wrap gap-2">
                    <Button
                      look="primary"
                      disabled={decide.isPending || (d.commentAlways && !comment.trim())}
                      onClick={() => decide.mutate(true)}
                    >
                      {d.setsOff ? `Approve and ${d.setsOff}` : "Approve"}
                    </Button>
                    <Button disabled={decide.isPending} onClick={() => setDeclining(true)}>
                      Decline…
                    </Button>
                  </div>
                </>
              )}
              {decide.isError && (
                <div className="mt-3">
                  <Trouble error={decide.error} />
                </div>
              )}
            </>
          )}
        </section>
      )}
      <p className="text-sm text-ink-2">
        <a href="/desk" className="link">
          Open Dastur
        </a>{" "}
        to see everything that needs you.
      </p>
    </main>
  );
}
