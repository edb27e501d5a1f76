import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { SourceLine, SourceView } from "../../api/types";
import { Button, Chip, Empty, Input, Loading, PageHead, Select, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { keyFor, SetUpDialog } from "../setup/saving";
import { administers, useSession } from "../signin/session";
import { FIRST, OF_MAIL, OF_SYSLOG } from "./mapping";
import { PROOFS } from "./proofs";

/** Who tells Dastur that something is the matter: each source with how much comes from it. */
export function SourcesPage() {
  const { session } = useSession();
  const now = useNow();
  const [making, setMaking] = useState(false);
  const all = useQuery({
    queryKey: ["sources"],
    queryFn: () => api.get<SourceLine[]>("/api/sources"),
    refetchInterval: 10_000,
  });
  if (all.isPending) return <Loading what="the sources" />;
  if (all.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={all.error} onRetry={() => all.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead title="Sources" sub="Who may tell Dastur that something is the matter, and what their words mean">
        <Link to="/signals" className="link self-center">
          Signals
        </Link>
        {administers(session) && (
          <Button look="primary" onClick={() => setMaking(true)}>
            New source
          </Button>
        )}
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {all.data.length === 0 ? (
          <Empty title="No source yet">
            A source is an address to which a monitor, a program or another desk posts what happens. Its page says how.
          </Empty>
        ) : (
          <ul>
            {all.data.map((s) => (
              <li key={s.key} className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-hairline py-2">
                <Link to="/sources/$key" params={{ key: s.key }} className="link font-semibold">
                  {s.name}
                </Link>
                {!s.open && <Chip tone="late">shut</Chip>}
                {s.silentSince && <Chip tone="late">silent</Chip>}
                <span className="text-sm text-ink-2">
                  {s.day} in the last 24 h
                  {s.notUnderstood > 0 && <strong className="text-late">, {s.notUnderstood} not understood</strong>}
                </span>
                <span className="ml-auto text-sm text-ink-2" title={s.last && exact(s.last)}>
                  {s.last ? `last ${moment(s.last, now)}` : "nothing has come yet"}
                </span>
              </li>
            ))}
          </ul>
        )}
      </div>
      {making && <NewSource taken={all.data.map((s) => s.key)} onClose={() => setMaking(false)} />}
    </>
  );
}

function NewSource({ taken, onClose }: { taken: string[]; onClose: () => void }) {
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [proof, setProof] = useState<SourceLine["proof"]>("token");
  const [to, setTo] = useState("");
  const key = keyFor(name);
  const twice = taken.includes(key) ? "There is a source of this name already." : undefined;
  const save = async () => {
    if (twice) throw new Error(twice);
    await api.put<SourceView>(`/api/sources/${key}`, {
      name,
      open: true,
      proof,
      mapping: proof === "address" ? OF_SYSLOG : proof === "mail" ? OF_MAIL : FIRST,
      otherwise: "kept",
      post: proof === "mail" ? { to, senders: [] } : undefined,
    });
    await navigate({ to: "/sources/$key", params: { key } });
  };
  return (
    <SetUpDialog title="A new source" verb="Make it" save={save} stale={["sources"]} onClose={onClose}>
      {(at) => (
        <>
          <Input
            label="Name"
            required
            autoFocus
            value={name}
            problem={twice ?? at("name")}
            onChange={(e) => setName(e.target.value)}
            help="As people know the sender, such as Board monitor."
          />
          <Select
            label="How its senders show who they are"
            value={proof}
            onChange={(v) => setProof(v as SourceLine["proof"])}
            options={PROOFS}
          />
          {proof === "mail" && (
            <Input
              label="The address that they write to"
              required
              value={to}
              problem={at("post.to")}
              onChange={(e) => setTo(e.target.value)}
              help="Of this source alone, such as alarms@kestrel.example; it comes to the mailbox that Dastur reads."
            />
          )}
        </>
      )}
    </SetUpDialog>
  );
}
