import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Relay, Zone, ZoneCode } from "../../api/types";
import { Button, Chip, Dialog, Empty, Input, Loading, PageHead, Trouble } from "../../ui/kit";
import { keyFor, SetUpDialog } from "../setup/saving";
import { administers, useSession } from "../signin/session";
import { ago, fileWords } from "./relays";

const LOOKS_EVERY = 5_000;
/** As many lines of a file stand open; more are folded. */
const SHOWN = 8;

/** Private networks, the relays in them, and what each of these may do (M13, M15). */
export function ZonesPage() {
  const { session } = useSession();
  const may = administers(session);
  const [making, setMaking] = useState(false);
  const all = useQuery({
    queryKey: ["zones"],
    queryFn: () => api.get<Zone[]>("/api/zones"),
    refetchInterval: LOOKS_EVERY,
  });
  if (all.isPending) return <Loading what="the zones" />;
  if (all.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={all.error} onRetry={() => all.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead title="Zones" sub="Private networks that only a relay in them reaches; it calls out, nothing calls in">
        <Link to="/automation" className="link self-center">
          Automation
        </Link>
        {may && (
          <Button look="primary" onClick={() => setMaking(true)}>
            New zone
          </Button>
        )}
      </PageHead>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: whoever may change nothing here still scrolls it by keys */}
      <div tabIndex={0} className="min-h-0 flex-1 overflow-auto p-5">
        {all.data.length === 0 && (
          <Empty title="No zone yet">
            Make one for a network that the server cannot reach, then add a relay: a small process that runs in it.
          </Empty>
        )}
        <ul className="grid gap-8">
          {all.data.map((zone) => (
            <ZoneOf key={zone.zone.key} of={zone} may={may} />
          ))}
        </ul>
      </div>
      {making && <NewZone taken={all.data.map((z) => z.zone.key)} onClose={() => setMaking(false)} />}
    </>
  );
}

function NewZone({ taken, onClose }: { taken: string[]; onClose: () => void }) {
  const [name, setName] = useState("");
  const key = keyFor(name);
  const clash = taken.includes(key);
  return (
    <SetUpDialog
      title="A new zone"
      save={async () => {
        if (clash) throw new Error("taken");
        await api.put(`/api/zones/${key}`, { key, name });
      }}
      stale={["zones"]}
      onClose={onClose}
    >
      {(at) => (
        <Input
          label="Name"
          required
          autoFocus
          value={name}
          problem={at("name") ?? at("key") ?? (clash ? "A zone is called so already." : undefined)}
          onChange={(e) => setName(e.target.value)}
          help={key ? `Connections reach it as relay://${key}/…, and the file of its relays names it so.` : undefined}
        />
      )}
    </SetUpDialog>
  );
}

function ZoneOf({ of, may }: { of: Zone; may: boolean }) {
  const [code, setCode] = useState<ZoneCode>();
  const make = useMutation({
    mutationFn: () => api.post<ZoneCode>(`/api/zones/${of.zone.key}/codes`),
    onSuccess: setCode,
  });
  return (
    <li>
      <section aria-label={of.zone.name}>
        <div className="flex flex-wrap items-baseline gap-x-3">
          <h2 className="text-lg font-bold">{of.zone.name}</h2>
          <span className="font-mono text-xs text-ink-2">{of.zone.key}</span>
          {may && (
            <Button
              className="ml-auto"
              aria-label={`Add a relay to ${of.zone.name}`}
              disabled={make.isPending}
              onClick={() => make.mutate()}
            >
              Add a relay
            </Button>
          )}
        </div>
        <p className="mb-2 text-sm text-ink-2">
          {of.connections.length === 0 ? "No connection leads here yet" : `Reached over ${of.connections.join(", ")}`}
          {of.waiting > 0 && (
            <span className="font-semibold text-late">
              {" · "}
              {of.waiting === 1 ? "1 call waits" : `${of.waiting} calls wait`} for a relay
            </span>
          )}
        </p>
        {of.strangers > 0 && (
          <p className="mb-2 rounded-lg border border-late bg-sheet p-2 text-sm">
            A code of this zone was tried again after it had been used. If that was not you, somebody else has read it:
            compare each relay below with where it should run, and let go of any you do not know.
          </p>
        )}
        {make.isError && <Trouble error={make.error} />}
        {of.relays.length === 0 && (
          <p className="py-2 text-ink-2">No relay yet: what workflows ask for here waits until its time is over.</p>
        )}
        <ul>
          {of.relays.map((relay) => (
            <RelayOf key={relay.id} of={relay} zone={of.zone.key} may={may} alike={of.relays} />
          ))}
        </ul>
      </section>
      {code && <CodeDialog code={code} zone={of} onClose={() => setCode(undefined)} />}
    </li>
  );
}

const SIGHT: Record<Relay["sight"], [string, "plain" | "late" | "soon" | "well"]> = {
  ASKS: ["asks to be let in", "soon"],
  IN_SIGHT: ["in sight", "well"],
  OUT_OF_SIGHT: ["out of sight", "late"],
  NEVER_SEEN: ["never seen yet", "late"],
};

function RelayOf({ of, zone, may, alike }: { of: Relay; zone: string; may: boolean; alike: Relay[] }) {
  const queries = useQueryClient();
  const names = useNames();
  const [leaving, setLeaving] = useState(false);
  const to = useMutation({
    mutationFn: (how: "let-in" | "let-go") => api.post<Zone>(`/api/zones/${zone}/relays/${of.id}/${how}`),
    onSettled: () => queries.invalidateQueries({ queryKey: ["zones"] }),
    onSuccess: () => setLeaving(false),
  });
  const [words, tone] = SIGHT[of.sight];
  const asks = of.sight === "ASKS";
  return (
    <li className="border-t border-hairline py-2">
      <div className="flex flex-wrap items-baseline gap-2">
        <span className="font-semibold">{of.name}</span>
        <Chip tone={tone}>{words}</Chip>
        <span className="text-sm text-ink-2">
          {[
            !asks && of.heardFor != null && `heard of ${ago(of.heardFor)}`,
            of.under > 0 && `at ${of.under === 1 ? "1 call" : `${of.under} calls`}`,
            of.letInBy && `let in by ${names.person(of.letInBy)}`,
            of.version,
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
        {may && (
          <span className="ml-auto flex gap-1">
            {asks && (
              <Button
                look="primary"
                aria-label={`Let in ${of.name}`}
                disabled={to.isPending}
                onClick={() => to.mutate("let-in")}
              >
                Let in
              </Button>
            )}
            <Button look="quiet" aria-label={`Let go of ${of.name}`} onClick={() => setLeaving(true)}>
              Let go
            </Button>
          </span>
        )}
      </div>
      <p className="text-sm">
        Key <span className="font-mono text-xs">{of.fingerprint}</span>
        {asks && <span className="text-ink-2"> Let it in only if the relay itself shows the same where it runs.</span>}
      </p>
      {of.two && (
        <p className="text-sm font-semibold text-late">
          Two processes have used this key within a day. Each relay has a key of its own: let go of this one and let
          both join anew.
        </p>
      )}
      {!asks && <p className="text-sm text-ink-2">{fileWords(of, alike)}</p>}
      {of.may.length > 0 && (
        <details className="text-sm" open={of.may.length <= SHOWN}>
          <summary className="cursor-pointer">What its file allows</summary>
          <ul className="mt-1 ml-4 list-disc font-mono text-xs">
            {of.may.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </details>
      )}
      {to.isError && <Trouble error={to.error} />}
      {leaving && (
        <Dialog title={`Let go of ${of.name}?`} open onClose={() => setLeaving(false)}>
          <p className="mb-3">
            Nothing it says counts from then on. What it is at now becomes unsure where it must not be repeated. To
            bring it back, it joins anew, in a new folder.
          </p>
          <div className="flex gap-2">
            <Button look="primary" disabled={to.isPending} onClick={() => to.mutate("let-go")}>
              Let go
            </Button>
            <Button onClick={() => setLeaving(false)}>Keep it</Button>
          </div>
        </Dialog>
      )}
    </li>
  );
}

/** The code is here and nowhere else; closed, it is gone. */
function CodeDialog({ code, zone, onClose }: { code: ZoneCode; zone: Zone; onClose: () => void }) {
  const command = `./relay join --server ${window.location.origin} --name NAME --code ${code.code}`;
  return (
    <Dialog title={`Add a relay to ${zone.zone.name}`} open onClose={onClose} wide>
      <ol className="mb-3 ml-4 list-decimal space-y-2">
        <li>
          On a machine in this network, unpack the archive that{" "}
          <span className="font-mono text-sm">./dastur relay pack</span> makes, and write{" "}
          <span className="font-mono text-sm">data/relay/allowed.json</span> there: it says what the relay may do.
          Nothing else is ever done, whatever is asked from here.
        </li>
        <li>
          Within {code.minutes} minutes, give this there. The code works once, and is not shown again.
          <pre className="mt-1 overflow-auto rounded-lg border border-hairline bg-sheet p-2 text-xs whitespace-pre-wrap [overflow-wrap:anywhere]">
            {command}
          </pre>
          <Button className="mt-1" onClick={() => navigator.clipboard?.writeText(command)}>
            Copy
          </Button>
        </li>
        <li>It prints its key. Here, compare it with the one that asks, and let it in.</li>
        <li>
          Then <span className="font-mono text-sm">./relay run</span> works until it is stopped.
        </li>
      </ol>
      <Button onClick={onClose}>Close</Button>
    </Dialog>
  );
}
