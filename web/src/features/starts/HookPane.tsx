import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { HookView } from "../../api/types";
import { Button, Loading, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { designs, useSession } from "../signin/session";
import { exampleCall, openApi } from "./example";
import { stateWords } from "./words";

/** How a hook is called, its tokens, and who has called it. */
export function HookPane({ trigger, name }: { trigger: string; name: string }) {
  const { session } = useSession();
  const [made, setMade] = useState<string>();
  const hook = useQuery({
    queryKey: ["hook", trigger],
    queryFn: () => api.get<HookView>(`/api/hooks/${trigger}`),
    refetchInterval: 5_000,
  });
  if (hook.isPending) return <Loading what="the hook" />;
  if (hook.isLoadingError) return <Trouble error={hook.error} onRetry={() => hook.refetch()} />;
  const { line, parameters } = hook.data;
  const address = `${window.location.origin}${line.path}`;
  return (
    <div className="grid gap-x-10 gap-y-8 lg:grid-cols-2">
      <div className="min-w-0">
        <section aria-label="How to call it">
          <h2 className="font-bold">How to call it</h2>
          <p>
            Programs post to <code className="font-mono text-sm break-all">{address}</code>.
          </p>
          <Parameters parameters={parameters} />
          <h3 className="mt-4 text-sm font-semibold text-ink-2">An example for a shell</h3>
          <pre className="mt-1 rounded border border-hairline bg-raised p-3 font-mono text-xs break-all whitespace-pre-wrap">
            {exampleCall(address, parameters, made ?? "the-token")}
          </pre>
          <p className="mt-2 text-sm text-ink-2">
            The answer is 202 once it has started. With “Prefer: wait=30” it waits up to 30 seconds for the end. The
            same call under the same Idempotency-Key starts nothing twice; a missing or wrong value is named, and
            nothing starts.
          </p>
          <details className="mt-2">
            <summary className="link cursor-pointer text-sm">As OpenAPI, for those who write programs</summary>
            <pre className="mt-1 max-h-72 overflow-auto rounded border border-hairline bg-raised p-3 font-mono text-xs">
              {openApi(line.path, name, parameters)}
            </pre>
          </details>
        </section>
        <Tokens view={hook.data} may={designs(session)} onMade={setMade} />
      </div>
      <Calls view={hook.data} />
    </div>
  );
}

function Parameters({ parameters }: { parameters: HookView["parameters"] }) {
  if (parameters.length === 0) return <p className="mt-1">They give nothing with it: its start form is empty.</p>;
  return (
    <table className="mt-2 w-full text-left text-sm">
      <thead className="text-ink-2">
        <tr className="border-b border-hairline">
          <th className="py-1 font-semibold">Name</th>
          <th className="font-semibold">What it is</th>
          <th className="font-semibold">Type</th>
          <th className="font-semibold">Needed</th>
        </tr>
      </thead>
      <tbody>
        {parameters.map((p) => (
          <tr key={p.name} className="border-b border-hairline">
            <td className="py-1 font-mono text-xs">{p.name}</td>
            <td>{p.label}</td>
            <td>{p.choices ? p.choices.join(", ") : p.type}</td>
            <td>{p.required ? "yes" : ""}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Tokens({ view, may, onMade }: { view: HookView; may: boolean; onMade: (token: string | undefined) => void }) {
  const now = useNow();
  const queries = useQueryClient();
  const [made, setMade] = useState<{ which: number; token: string }>();
  const { id } = view.line.live.trigger;
  const again = () => queries.invalidateQueries({ queryKey: ["hook", id] });
  const show = (next?: { which: number; token: string }) => {
    setMade(next);
    onMade(next?.token);
  };
  const make = useMutation({
    mutationFn: async (which: number) => {
      const { token } = await api.post<{ token: string }>(`/api/hooks/${id}/tokens`, { which });
      show({ which, token });
    },
    onSuccess: again,
  });
  const remove = useMutation({
    mutationFn: (which: number) => api.delete(`/api/hooks/${id}/tokens/${which}`),
    onSuccess: async () => {
      show();
      await again();
    },
  });
  return (
    <section aria-label="Tokens" className="mt-6">
      <h2 className="font-bold">Tokens</h2>
      <p className="text-sm text-ink-2">Each is good for this hook alone. Two may be live at a time.</p>
      <ul className="mt-1">
        {[1, 2].map((which) => {
          const there = view.tokens.find((t) => t.which === which);
          const said = which === 1 ? "first" : "second";
          return (
            <li key={which} className="flex flex-wrap items-center gap-3 border-b border-hairline py-2">
              <span className="flex-1">
                The {said}{" "}
                <span className="text-sm text-ink-2" title={there && exact(there.at)}>
                  {there ? `made ${moment(there.at, now)}` : "is not there"}
                </span>
              </span>
              {may && (
                <Button
                  disabled={make.isPending}
                  aria-label={`${there ? "Make anew" : "Make"} the ${said} token`}
                  onClick={() => make.mutate(which)}
                >
                  {there ? "Make anew" : "Make"}
                </Button>
              )}
              {may && there && (
                <Button look="quiet" aria-label={`Take away the ${said} token`} onClick={() => remove.mutate(which)}>
                  Take away
                </Button>
              )}
              {made?.which === which && (
                <p role="status" className="w-full rounded border border-soon bg-selected p-2">
                  Copy it now, it is not shown again:{" "}
                  <code className="font-mono text-sm break-all select-all">{made.token}</code>
                </p>
              )}
            </li>
          );
        })}
      </ul>
      {make.isError && <Trouble error={make.error} />}
      {remove.isError && <Trouble error={remove.error} />}
      {!may && <p className="mt-2 text-sm text-ink-2">Process owners make tokens.</p>}
    </section>
  );
}

function Calls({ view }: { view: HookView }) {
  const now = useNow();
  return (
    <section aria-label="Calls" className="min-w-0">
      <h2 className="font-bold">Who has called</h2>
      {view.calls.length === 0 && <p className="text-ink-2">Nobody yet.</p>}
      <ul>
        {view.calls.map((c) => (
          <li key={c.id} className="border-b border-hairline py-1.5">
            <div className="flex gap-3">
              <span className="shrink-0 text-ink-2" title={exact(c.cameAt)}>
                {moment(c.cameAt, now)}
              </span>
              <span className="min-w-0 flex-1 truncate" title={c.caller}>
                {c.caller}
              </span>
              {c.ticket && (
                <span className="shrink-0">
                  {stateWords(c.state)}{" "}
                  <Link to="/tickets/$number" params={{ number: c.ticket }} className="link">
                    {c.ticket}
                  </Link>
                </span>
              )}
            </div>
            {c.problem && <p className="text-sm text-late">{c.problem}</p>}
          </li>
        ))}
      </ul>
      {view.refused.length > 0 && (
        <>
          <h2 className="mt-6 font-bold">Refused at the door</h2>
          <ul>
            {view.refused.map((r) => (
              <li key={r.minute + r.reason} className="flex gap-3 border-b border-hairline py-1 text-sm">
                <span className="shrink-0 text-ink-2" title={exact(r.minute)}>
                  {moment(r.minute, now)}
                </span>
                <span className="w-10 shrink-0 text-right">{r.count} ×</span>
                <span className="w-28 shrink-0 font-semibold">{r.reason}</span>
                <span className="min-w-0 text-ink-2">{r.words}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
