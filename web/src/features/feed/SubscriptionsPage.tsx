import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { SubscriptionView } from "../../api/types";
import { Button, Chip, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { left } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { administers, useSession } from "../signin/session";
import { SubscriptionDialog } from "./SubscriptionDialog";
import { standWords } from "./words";

/** Who elsewhere is told of what happens here. */
export function SubscriptionsPage() {
  const { session } = useSession();
  const navigate = useNavigate();
  const now = useNow();
  const [making, setMaking] = useState(false);
  const all = useQuery({
    queryKey: ["subscriptions"],
    queryFn: () => api.get<SubscriptionView[]>("/api/subscriptions"),
    refetchInterval: 5_000,
  });
  if (all.isPending) return <Loading what="the subscriptions" />;
  if (all.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={all.error} onRetry={() => all.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead title="Subscriptions" sub="Who elsewhere is told of what happens here, entry by entry">
        {administers(session) && (
          <Button look="primary" onClick={() => setMaking(true)}>
            New subscription
          </Button>
        )}
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {all.data.length === 0 ? (
          <Empty title="Nobody is told">
            A subscription posts what happens to an address, as CloudEvents, signed. Programs that cannot be reached ask
            instead, at /api/events.
          </Empty>
        ) : (
          <ul>
            {all.data.map((v) => {
              const { words, tone } = standWords(v, (until) => left(until, now));
              return (
                <li
                  key={v.subscription.key}
                  className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-hairline py-2.5"
                >
                  <Link to="/subscriptions/$key" params={{ key: v.subscription.key }} className="link font-semibold">
                    {v.subscription.name}
                  </Link>
                  <span className="min-w-0 truncate font-mono text-xs text-ink-2">{v.subscription.address}</span>
                  {!v.signs && <Chip tone="soon">not signed</Chip>}
                  <span className={`ml-auto text-sm ${tone === "late" ? "text-late" : "text-ink-2"}`}>{words}</span>
                </li>
              );
            })}
          </ul>
        )}
      </div>
      {making && (
        <SubscriptionDialog
          onClose={() => setMaking(false)}
          onMade={(key) => navigate({ to: "/subscriptions/$key", params: { key } })}
        />
      )}
    </>
  );
}
