import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { SourceView } from "../../api/types";
import { Button, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { example, PROOFS } from "./proofs";

/** The address, the secrets and an example. A secret is shown once, when it is made. */
export function HowToSend({ view, may }: { view: SourceView; may: boolean }) {
  const now = useNow();
  const queries = useQueryClient();
  const [made, setMade] = useState<{ which: number; secret: string }>();
  const { source } = view;
  const address = `${window.location.origin}${view.path}`;
  const again = () => queries.invalidateQueries({ queryKey: ["source", source.key] });
  const make = useMutation({
    mutationFn: async (which: number) => {
      const { secret } = await api.post<{ secret: string }>(`/api/sources/${source.key}/secrets`, { which });
      setMade({ which, secret });
    },
    onSuccess: again,
  });
  const remove = useMutation({
    mutationFn: (which: number) => api.delete(`/api/sources/${source.key}/secrets/${which}`),
    onSuccess: async () => {
      setMade(undefined);
      await again();
    },
  });
  return (
    <section aria-label="How to send" className="max-w-3xl">
      <p>
        Senders post to <code className="font-mono text-sm break-all">{address}</code> and show who they are{" "}
        {PROOFS.find((p) => p.value === source.proof)?.label}.
      </p>
      <p className="mt-1 text-sm text-ink-2">
        Understood are CloudEvents 1.0 (structured, binary, batch), JSON objects and forms, at most 256 kB and 500
        events at once. The answer is 202 with an id, once what came is on the disk; the same delivery sent again is not
        counted twice for thirty days, if it has an id (webhook-id, Idempotency-Key, or the event’s source and id).
      </p>
      <h2 className="mt-5 font-bold">Secrets</h2>
      <p className="text-sm text-ink-2">
        Two may be live at a time, so that one can be changed without losing anything: make the second, give it to the
        senders, take the first away.
      </p>
      <ul className="mt-2 max-w-xl">
        {[1, 2].map((which) => {
          const there = view.secrets.find((s) => s.which === which);
          return (
            <li key={which} className="flex flex-wrap items-center gap-3 border-b border-hairline py-2">
              <span className="flex-1">
                {which === 1 ? "First secret" : "Second secret"}{" "}
                <span className="text-sm text-ink-2" title={there && exact(there.at)}>
                  {there ? `made ${moment(there.at, now)}` : "not there"}
                </span>
              </span>
              {may && (
                <Button
                  disabled={make.isPending}
                  aria-label={`${there ? "Make anew" : "Make"} the ${which === 1 ? "first" : "second"} secret`}
                  onClick={() => make.mutate(which)}
                >
                  {there ? "Make anew" : "Make"}
                </Button>
              )}
              {may && there && (
                <Button
                  look="quiet"
                  aria-label={`Take away the ${which === 1 ? "first" : "second"} secret`}
                  onClick={() => remove.mutate(which)}
                >
                  Take away
                </Button>
              )}
              {made?.which === which && (
                <p role="status" className="w-full rounded border border-soon bg-selected p-2">
                  Copy it now, it is not shown again:{" "}
                  <code className="font-mono text-sm break-all select-all">{made.secret}</code>
                </p>
              )}
            </li>
          );
        })}
      </ul>
      {make.isError && <Trouble error={make.error} />}
      {remove.isError && <Trouble error={remove.error} />}
      {!may && <p className="mt-2 text-sm text-ink-2">Administrators make secrets and change what is set here.</p>}
      <h2 className="mt-5 font-bold">An example for a shell</h2>
      <pre className="mt-1 rounded border border-hairline bg-raised p-3 font-mono text-xs break-all whitespace-pre-wrap">
        {example(address, source.proof, made?.secret ?? "the-secret")}
      </pre>
    </section>
  );
}
