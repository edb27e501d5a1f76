import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Action, Automation, Connection } from "../../api/types";
import { Button, Chip, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { administers, designs, useSession } from "../signin/session";
import { ActionDialog } from "./ActionDialog";
import { ConnectionDialog } from "./ConnectionDialog";
import { called } from "./protocols";
import { Secrets } from "./Secrets";

type Opened = { action?: Action | "new"; copy?: boolean; connection?: Connection | "new" };

const uses = (n: number) => (n === 0 ? "not used" : n === 1 ? "used by 1 action" : `used by ${n} actions`);

/** The catalogue of actions that workflows run, and the connections they use. */
export function AutomationPage() {
  const { session } = useSession();
  const [open, setOpen] = useState<Opened>({});
  const all = useQuery({ queryKey: ["automation"], queryFn: () => api.get<Automation>("/api/automation") });
  if (all.isPending) return <Loading what="automation" />;
  if (all.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={all.error} onRetry={() => all.refetch()} />
      </div>
    );
  // What may be reached at all is for administrators; what is done there, for those who design.
  const may = administers(session);
  const makes = designs(session);
  const { actions, connections, secrets } = all.data;
  const close = () => setOpen({});
  return (
    <>
      <PageHead title="Automation" sub="What workflows can do outside, and over which connections">
        {may && <Button onClick={() => setOpen({ connection: "new" })}>New connection</Button>}
        {makes && (
          <Button look="primary" disabled={connections.length === 0} onClick={() => setOpen({ action: "new" })}>
            New action
          </Button>
        )}
      </PageHead>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: whoever may change nothing here still scrolls it by keys */}
      <div tabIndex={0} className="grid min-h-0 flex-1 content-start gap-8 overflow-auto p-5 lg:grid-cols-[1fr_340px]">
        <section aria-label="Actions">
          {actions.length === 0 && (
            <Empty title="No action yet">Make a connection first, then what can be done over it.</Empty>
          )}
          <ul>
            {actions.map((a) => (
              <li key={a.key} className="border-b border-hairline py-2">
                <div className="flex flex-wrap items-baseline gap-2">
                  <span className="font-semibold">{a.name}</span>
                  <span className="font-mono text-xs text-ink-2">{a.key}</span>
                  {a.changesWorld ? <Chip tone="soon">changes the world</Chip> : <Chip>only reads</Chip>}
                  {makes && (
                    <span className="ml-auto flex">
                      <Button look="quiet" aria-label={`Change ${a.name}`} onClick={() => setOpen({ action: a })}>
                        Change
                      </Button>
                      <Button
                        look="quiet"
                        aria-label={`A variant of ${a.name}`}
                        onClick={() => setOpen({ action: a, copy: true })}
                      >
                        A variant
                      </Button>
                    </span>
                  )}
                </div>
                <p className="text-sm text-ink-2">{a.description}</p>
                <p className="font-mono text-xs break-all">
                  {called(
                    a,
                    connections.find((c) => c.key === a.connection),
                  )}
                </p>
              </li>
            ))}
          </ul>
        </section>
        <section aria-label="Connections">
          <h2 className="mb-2 font-bold">Connections</h2>
          <ul>
            {connections.map((c) => (
              <li key={c.key} className="border-b border-hairline py-2">
                <div className="flex items-baseline gap-2">
                  <span className="font-semibold">{c.name}</span>
                  {may && (
                    <Button
                      look="quiet"
                      className="ml-auto"
                      aria-label={`Change ${c.name}`}
                      onClick={() => setOpen({ connection: c })}
                    >
                      Change
                    </Button>
                  )}
                </div>
                <p className="font-mono text-xs break-all">{c.base}</p>
                <p className="text-xs text-ink-2">
                  {c.secret ? `signs in with the secret ${c.secret}` : "signs in with nothing"} ·{" "}
                  {uses(actions.filter((a) => a.connection === c.key).length)}
                </p>
              </li>
            ))}
          </ul>
          {may && <Secrets />}
        </section>
      </div>
      {open.action && (
        <ActionDialog
          action={open.action === "new" ? undefined : open.action}
          copy={open.copy}
          connections={connections}
          taken={actions.map((a) => a.key)}
          secrets={may ? secrets : null}
          onClose={close}
        />
      )}
      {open.connection && (
        <ConnectionDialog
          connection={open.connection === "new" ? undefined : open.connection}
          secrets={secrets}
          onClose={close}
        />
      )}
    </>
  );
}
