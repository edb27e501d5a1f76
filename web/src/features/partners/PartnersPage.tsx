import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { PartnerLine } from "../../api/types";
import { Button, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { designs, useSession } from "../signin/session";
import { NewPartner } from "./NewPartner";
import { standWords } from "./words";

/** The desks of others that ours is joined to. */
export function PartnersPage() {
  const { session } = useSession();
  const navigate = useNavigate();
  const now = useNow();
  const [making, setMaking] = useState(false);
  const all = useQuery({
    queryKey: ["partners"],
    queryFn: () => api.get<PartnerLine[]>("/api/partners"),
    refetchInterval: 5_000,
  });
  if (all.isPending) return <Loading what="the partners" />;
  if (all.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={all.error} onRetry={() => all.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead
        title="Partners"
        sub="Desks of others: what is handed to them, and what they hand to us, is kept the same"
      >
        {designs(session) && (
          <Button look="primary" onClick={() => setMaking(true)}>
            New partner
          </Button>
        )}
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {all.data.length === 0 ? (
          <Empty title="No desk is joined yet">
            A partner is another organisation's ticket desk: actions list, raise and change its tickets, and a table
            says what its words mean here.
          </Empty>
        ) : (
          <ul className="max-w-4xl">
            {all.data.map((p) => {
              const { words, late } = standWords(p, (at) => moment(at, now));
              return (
                <li
                  key={p.key}
                  className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-hairline py-2.5"
                >
                  <Link to="/partners/$key" params={{ key: p.key }} className="link font-semibold">
                    {p.name}
                  </Link>
                  <span className="text-ink-2">
                    {p.followed === 1 ? "1 ticket followed" : `${p.followed} tickets followed`}
                  </span>
                  <span className={`ml-auto text-sm ${late ? "text-late" : "text-ink-2"}`}>{words}</span>
                  {p.problem && <span className="w-full text-sm text-late">{p.problem}</span>}
                </li>
              );
            })}
          </ul>
        )}
      </div>
      {making && (
        <NewPartner
          onClose={() => setMaking(false)}
          onMade={(key) => navigate({ to: "/partners/$key", params: { key }, search: { tab: "joined" } })}
        />
      )}
    </>
  );
}
