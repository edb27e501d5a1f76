import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Action, Automation, CallFigures, Connection, Held } from "../../api/types";
import { Button, Chip, Empty, Input, Loading, PageHead, Select, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { Secrets } from "../setup/Secrets";
import { administers, designs, useSession } from "../signin/session";
import { ActionDialog } from "./ActionDialog";
import { ConnectionDialog } from "./ConnectionDialog";
import { figuresWords, usedBy } from "./figures";
import { HoldDialog } from "./HoldDialog";
import { heldWords } from "./held";
import { ALL_KINDS, kindOf } from "./protocols";
import { TestDialog } from "./TestDialog";

type Opened = { action?: Action | "new"; connection?: Connection | "new"; hold?: Connection; test?: Connection };

const overIt = (n: number) => (n === 0 ? "no action" : n === 1 ? "1 action" : `${n} actions`);

/** The catalogue of actions that workflows run, and the connections they use. */
export function AutomationPage() {
  const { session } = useSession();
  const now = useNow();
  const names = useNames();
  const [open, setOpen] = useState<Opened>({});
  const [sought, setSought] = useState("");
  const [kind, setKind] = useState("");
  const all = useQuery({
    queryKey: ["automation"],
    queryFn: () => api.get<Automation>("/api/automation"),
    refetchInterval: 10_000,
  });
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
  const { actions, connections, secrets, uses, figures, health, held } = all.data;
  const keeper = new Map(all.data.terms?.map((t) => [t.action, t.keeper]));
  const over = new Map(connections.map((c) => [c.key, c]));
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = actions.filter((a) => {
    const kept = keeper.get(a.key);
    const text =
      `${a.key} ${a.name} ${a.description} ${over.get(a.connection)?.name ?? ""} ${kept ? names.person(kept) : ""}`.toLowerCase();
    return words.every((w) => text.includes(w)) && (!kind || kindOf(over.get(a.connection)?.base) === kind);
  });
  const close = () => setOpen({});
  return (
    <>
      <PageHead title="Automation" sub="What workflows can do outside, and over which connections">
        <Link to="/automation/zones" className="link self-center">
          Zones and relays
        </Link>
        {may && <Button onClick={() => setOpen({ connection: "new" })}>New connection</Button>}
        {makes && (
          <Button look="primary" disabled={connections.length === 0} onClick={() => setOpen({ action: "new" })}>
            New action
          </Button>
        )}
      </PageHead>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: whoever may change nothing here still scrolls it by keys */}
      <div tabIndex={0} className="grid min-h-0 flex-1 content-start gap-8 overflow-auto p-5 lg:grid-cols-[1fr_340px]">
        <section aria-label="Actions" className="min-w-0">
          {actions.length === 0 ? (
            <Empty title="No action yet">Make a connection first, then what can be done over it.</Empty>
          ) : (
            <div className="mb-2 flex flex-wrap items-end gap-3">
              <div className="min-w-56 flex-1">
                <Input
                  label={`Find among ${overIt(actions.length)}`}
                  type="search"
                  value={sought}
                  onChange={(e) => setSought(e.target.value)}
                />
              </div>
              <Select
                label="Spoken to over"
                value={kind}
                onChange={setKind}
                options={[{ value: "", label: "anything" }, ...ALL_KINDS.map((k) => ({ value: k, label: k }))]}
              />
            </div>
          )}
          {actions.length > 0 && shown.length === 0 && <p className="py-4 text-ink-2">No action is called so.</p>}
          <ul>
            {shown.map((a) => (
              <li key={a.key} className="border-b border-hairline py-2 [content-visibility:auto]">
                <div className="flex flex-wrap items-baseline gap-2">
                  <Link to="/actions/$key" params={{ key: a.key }} className="link font-semibold">
                    {a.name}
                  </Link>
                  {a.withdrawn && <Chip tone="late">withdrawn</Chip>}
                  {a.changesWorld ? <Chip tone="soon">changes the world</Chip> : <Chip>only reads</Chip>}
                  {makes && (
                    <Button
                      look="quiet"
                      className="ml-auto"
                      aria-label={`A variant of ${a.name}`}
                      onClick={() => setOpen({ action: a })}
                    >
                      A variant
                    </Button>
                  )}
                </div>
                <p className="text-sm text-ink-2">{a.description}</p>
                <p className="text-sm">
                  {usedBy(uses[a.key] ?? 0)} · {figuresWords(figures[a.key])}
                  {keeper.get(a.key) && ` · kept by ${names.person(keeper.get(a.key))}`}
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
                  {c.base.startsWith("relay://")
                    ? "by a relay, with what the zone keeps"
                    : c.secret
                      ? `signs in with the secret ${c.secret}`
                      : "signs in with nothing"}{" "}
                  · {overIt(actions.filter((a) => a.connection === c.key).length)}
                </p>
                <Health of={health[c.key]} />
                {held[c.key] && (
                  <p role="status" className="text-sm font-semibold text-late">
                    {heldWords(c.name, held[c.key] as Held, now, names)}
                  </p>
                )}
                {makes && (
                  <Button
                    look="quiet"
                    className="-ml-3"
                    aria-label={`Test… ${c.name}`}
                    onClick={() => setOpen({ test: c })}
                  >
                    Test…
                  </Button>
                )}
                {may && (
                  <Button
                    look="quiet"
                    className="-ml-3"
                    aria-label={`${held[c.key] ? "Let calls out" : "Hold calls back"}… over ${c.name}`}
                    onClick={() => setOpen({ hold: c })}
                  >
                    {held[c.key] ? "Let calls out…" : "Hold calls back…"}
                  </Button>
                )}
              </li>
            ))}
          </ul>
          {may && <Secrets />}
        </section>
      </div>
      {open.action && (
        <ActionDialog
          of={open.action === "new" ? undefined : open.action}
          connections={connections}
          taken={actions.map((a) => a.key)}
          secrets={may ? secrets : null}
          onClose={close}
        />
      )}
      {open.test && <TestDialog connection={open.test} onClose={close} />}
      {open.hold && <HoldDialog connection={open.hold} held={open.hold.key in held} onClose={close} />}
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

/** How calls over a connection went of late; the last one stands first, since it says how it is now. */
function Health({ of }: { of?: CallFigures }) {
  const now = useNow();
  if (!of) return <p className="text-xs text-ink-2">Not called in 30 days.</p>;
  const badIsLast = of.lastBad && (!of.lastGood || of.lastBad > of.lastGood);
  return (
    <p className="text-xs text-ink-2">
      <span className={badIsLast ? "font-semibold text-late" : "text-well"}>
        {badIsLast
          ? `last call went wrong, ${moment(of.lastBad as string, now)}`
          : `last call well, ${moment(of.lastGood as string, now)}`}
      </span>
      {badIsLast && of.lastGood && ` (last well ${moment(of.lastGood, now)})`} · {figuresWords(of)}
    </p>
  );
}
