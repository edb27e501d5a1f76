import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { WatchView } from "../../api/types";
import { Button, Chip, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { designs, useSession } from "../signin/session";
import { Stretches } from "./Stretches";
import { WatchDialog } from "./WatchDialog";

/** A watch: how it stands, and what it saw, in stretches of the same. */
export function WatchPage() {
  const { key } = useParams({ from: "/watches/$key" });
  const now = useNow();
  const { session } = useSession();
  const [changing, setChanging] = useState(false);
  const watch = useQuery({
    queryKey: ["watch", key],
    queryFn: () => api.get<WatchView>(`/api/watches/${key}`),
    refetchInterval: 3_000,
  });
  if (watch.isPending) return <Loading what="the watch" />;
  if (watch.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={watch.error}>
          <Link to="/starts" className="link">
            All starts
          </Link>
        </Trouble>
      </div>
    );
  const { line, stretches } = watch.data;
  return (
    <>
      <PageHead
        title={line.name}
        sub={
          <span className="flex flex-wrap gap-x-1.5">
            {!line.on && <Chip>switched off</Chip>}
            {line.inFault && <Chip tone="late">in fault</Chip>}
            <span>
              {line.action} every {line.every}
              {line.next && ` · looks next at ${moment(line.next, now)}`}
              {line.passed > 0 && ` · ${line.passed} times passed over, since a reading took longer`}
            </span>
          </span>
        }
      >
        {designs(session) && <Button onClick={() => setChanging(true)}>Change…</Button>}
        <Link to="/sources/$key" params={{ key }} search={{ tab: "came" }} className="link self-center">
          Its signals
        </Link>
        <Link to="/starts" className="link self-center">
          All starts
        </Link>
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {line.rows.length > 0 && (
          <p className="mb-3 max-w-4xl">
            Something is the matter with <strong>{line.rows.join(", ")}</strong>
            {line.rows.length >= 50 && " and more"}.
          </p>
        )}
        {stretches.length === 0 ? (
          <Empty title="It has not looked yet">
            What it sees stands here: readings in a row that say the same are one.
          </Empty>
        ) : (
          <section aria-label="What it saw" className="max-w-4xl">
            <h2 className="mb-1 font-bold">What it saw</h2>
            <Stretches watch={key} stretches={stretches} now={now} />
            {stretches.length >= 50 && <p className="mt-2 text-sm text-ink-2">The last 50 are shown.</p>}
          </section>
        )}
      </div>
      {changing && <WatchDialog view={watch.data} onClose={() => setChanging(false)} />}
    </>
  );
}
