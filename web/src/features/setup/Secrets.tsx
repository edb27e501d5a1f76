import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useDirectory } from "../../api/hooks";
import type { Secret } from "../../api/types";
import { Button, Loading, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { SecretDialog } from "./SecretDialog";

/** Which secrets there are, who uses them, and setting them; for administrators. Values are never here. */
export function Secrets() {
  const now = useNow();
  const queries = useQueryClient();
  const [open, setOpen] = useState<string | null>(null);
  const all = useQuery({ queryKey: ["secrets"], queryFn: () => api.get<Secret[]>("/api/secrets") });
  const directory = useDirectory();
  const nameOf = (id: string) => directory.data?.people.find((p) => p.id === id)?.name ?? id;
  const remove = useMutation({
    mutationFn: (name: string) => api.delete(`/api/secrets/${encodeURIComponent(name)}`),
    onSettled: () =>
      Promise.all(["secrets", "automation"].map((key) => queries.invalidateQueries({ queryKey: [key] }))),
  });
  return (
    <section aria-label="Secrets" className="mt-8">
      <div className="mb-2 flex items-center">
        <h2 className="font-bold">Secrets</h2>
        <Button look="quiet" className="ml-auto" onClick={() => setOpen("")}>
          New secret
        </Button>
      </div>
      {all.isPending && <Loading what="secrets" />}
      {all.isError && <Trouble error={all.error} onRetry={() => all.refetch()} />}
      {remove.isError && <Trouble error={remove.error} />}
      {all.data?.length === 0 && <p className="text-sm text-ink-2">None yet. Connections sign in with them.</p>}
      <ul>
        {all.data?.map((s) => (
          <li key={s.name} className="border-b border-hairline py-2">
            <div className="flex items-baseline gap-2">
              <span className="min-w-0 font-mono text-sm wrap-anywhere">{s.name}</span>
              <span className="ml-auto flex">
                <Button look="quiet" aria-label={`A new value for ${s.name}`} onClick={() => setOpen(s.name)}>
                  New value
                </Button>
                {s.usedBy.length === 0 && (
                  <Button
                    look="quiet"
                    aria-label={`Remove ${s.name}`}
                    disabled={remove.isPending}
                    onClick={() => remove.mutate(s.name)}
                  >
                    Remove
                  </Button>
                )}
              </span>
            </div>
            <p className="text-xs text-ink-2">
              {s.usedBy.length === 0 ? "used by no connection" : `used by ${s.usedBy.join(", ")}`} ·{" "}
              <span title={exact(s.at)}>
                set {moment(s.at, now)}
                {s.by ? ` by ${nameOf(s.by)}` : ", from secrets.properties"}
              </span>
            </p>
          </li>
        ))}
      </ul>
      {open !== null && <SecretDialog secret={open || undefined} onClose={() => setOpen(null)} />}
    </section>
  );
}
