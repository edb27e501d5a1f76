import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api } from "../../api/client";
import type { Token, TokenMade } from "../../api/types";
import { Button, Dialog, Input, Loading, Select, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";

const SCOPES = [
  { value: "read", label: "to read only" },
  { value: "all", label: "for everything that I may do" },
];

const SPANS = [
  { value: "7", label: "a week" },
  { value: "30", label: "30 days" },
  { value: "90", label: "90 days" },
  { value: "366", label: "a year" },
];

/** One's own API tokens: what each is for and until when. */
export function TokensDialog({ onClose }: { onClose: () => void }) {
  const now = useNow();
  const queries = useQueryClient();
  const tokens = useQuery({ queryKey: ["tokens"], queryFn: () => api.get<Token[]>("/api/tokens") });
  const again = () => queries.invalidateQueries({ queryKey: ["tokens"] });
  const drop = useMutation({ mutationFn: (id: string) => api.delete(`/api/tokens/${id}`), onSettled: again });
  return (
    <Dialog title="My API tokens" open onClose={onClose} wide>
      <p className="mb-4 max-w-prose text-ink-2">
        A program that shows a token acts as you. All of them end when your password is changed or your account is shut.
      </p>
      {tokens.isPending && <Loading what="your tokens" />}
      {tokens.isError && <Trouble error={tokens.error} onRetry={() => tokens.refetch()} />}
      {drop.isError && <Trouble error={drop.error} />}
      <ul aria-label="Tokens">
        {tokens.data?.map((t) => (
          <li key={t.id} className="flex flex-wrap items-center gap-3 border-t border-hairline py-2">
            <span className="min-w-0 flex-1">
              <strong className="wrap-anywhere">{t.name}</strong>, {SCOPES.find((s) => s.value === t.scope)?.label}
              <span className="block text-sm text-ink-2" title={exact(t.expiresAt)}>
                {Date.parse(t.expiresAt) < now ? "ended" : "until"} {moment(t.expiresAt, now)}
              </span>
            </span>
            <Button disabled={drop.isPending} aria-label={`End ${t.name}`} onClick={() => drop.mutate(t.id)}>
              End it
            </Button>
          </li>
        ))}
      </ul>
      {tokens.data?.length === 0 && <p className="border-t border-hairline py-2 text-ink-2">You have none.</p>}
      <Making onMade={again} />
    </Dialog>
  );
}

function Making({ onMade }: { onMade: () => void }) {
  const [name, setName] = useState("");
  const [scope, setScope] = useState("read");
  const [days, setDays] = useState("90");
  const make = useMutation({
    mutationFn: () => api.post<TokenMade>("/api/tokens", { name, scope, days: Number(days) }),
    onSuccess: () => {
      setName("");
      onMade();
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    make.mutate();
  };
  return (
    <form onSubmit={submit} className="mt-4 space-y-3 border-t border-hairline pt-4">
      <h3 className="font-semibold">A new token</h3>
      <Input label="For what" required maxLength={100} value={name} onChange={(e) => setName(e.target.value)} />
      <div className="grid gap-3 md:grid-cols-2">
        <Select label="It may be used" options={SCOPES} value={scope} onChange={(picked) => setScope(picked)} />
        <Select label="For" options={SPANS} value={days} onChange={(picked) => setDays(picked)} />
      </div>
      {make.isError && <Trouble error={make.error} />}
      {make.data && (
        <div role="status" className="rounded-md border border-soon bg-selected p-3">
          <p className="mb-1">
            Copy <strong>{make.data.name}</strong> now; it is never shown again.
          </p>
          <code className="block font-mono text-sm break-all select-all">{make.data.token}</code>
        </div>
      )}
      <Button type="submit" disabled={make.isPending || !name.trim()}>
        Make it
      </Button>
    </form>
  );
}
