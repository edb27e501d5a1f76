import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { SignalView } from "../../api/types";
import { Loading, Trouble } from "../../ui/kit";
import { EveryTrigger } from "./EveryTrigger";
import { Told } from "./Told";

/** Names of what signals say, as people call them. */
const LABELS: Record<string, string> = {
  sort: "sort",
  severity: "severity",
  what: "what is the matter",
  matter: "matter",
  key: "key",
  ci: "CI",
  service: "service",
  title: "title",
  text: "text",
  link: "link",
  at: "happened at",
};

/** A signal as it came, as it was understood, and why it did what it did. */
export function RawAndMapped({ id }: { id: string }) {
  const view = useQuery({ queryKey: ["signal", id], queryFn: () => api.get<SignalView>(`/api/signals/${id}`) });
  if (view.isPending) return <Loading what="the signal" />;
  if (view.isError) return <Trouble error={view.error} />;
  const { signal, raw } = view.data;
  const words = signal as unknown as Record<string, unknown> | undefined;
  return (
    <div className="my-2 flex flex-col gap-3">
      {words && (
        <dl className="grid grid-cols-[130px_1fr] gap-x-3 gap-y-0.5">
          {Object.entries(LABELS)
            .filter(([name]) => words[name] !== undefined && words[name] !== null)
            .map(([name, label]) => (
              <div key={name} className="contents">
                <dt className="text-ink-2">{label}</dt>
                <dd className="break-words">{String(words[name])}</dd>
              </div>
            ))}
          {Object.entries((words.values ?? {}) as Record<string, unknown>).map(([name, value]) => (
            <div key={name} className="contents">
              <dt className="text-ink-2">{name}</dt>
              <dd className="break-words">{String(value)}</dd>
            </div>
          ))}
        </dl>
      )}
      <details open={!words}>
        <summary className="link w-fit cursor-pointer">as it came</summary>
        <pre className="mt-1 rounded border border-hairline bg-raised p-2 font-mono text-xs break-all whitespace-pre-wrap">
          {JSON.stringify(raw, null, 2)}
        </pre>
      </details>
      {view.data.told.length > 0 && <Told view={view.data} />}
      {view.data.signal && <EveryTrigger id={id} />}
    </div>
  );
}
