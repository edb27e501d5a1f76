import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { UndeliveredMessage } from "../../api/types";
import { Button, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { raises, useSession } from "../signin/session";

/** Messages that were given up, each sent again by one click. */
export function UndeliveredPage() {
  const names = useNames();
  const now = useNow();
  const queries = useQueryClient();
  const may = raises(useSession().session);
  const messages = useQuery({
    queryKey: ["undelivered"],
    queryFn: () => api.get<UndeliveredMessage[]>("/api/undelivered"),
  });
  const retry = useMutation({
    mutationFn: async (ids: string[]) => {
      for (const id of ids) await api.post(`/api/undelivered/${encodeURIComponent(id)}/retry`);
    },
    onSettled: () => {
      queries.invalidateQueries({ queryKey: ["undelivered"] });
      queries.invalidateQueries({ queryKey: ["desk"] });
    },
  });
  if (messages.isPending) return <Loading what="messages" />;
  if (messages.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={messages.error} onRetry={() => messages.refetch()} />
      </div>
    );
  const all = messages.data;
  return (
    <>
      <PageHead title="Undelivered" sub="Messages that were tried for a quarter of an hour and given up">
        {may && all.length > 1 && (
          <Button look="primary" disabled={retry.isPending} onClick={() => retry.mutate(all.map((m) => m.id))}>
            Send all again
          </Button>
        )}
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {retry.isError && <Trouble error={retry.error} />}
        {all.length === 0 && (
          <Empty title="Everything was delivered">What cannot be delivered stands here until it is sent again.</Empty>
        )}
        <ul>
          {all.map((m) => (
            <li key={m.id} className="flex flex-wrap items-baseline gap-x-3 border-b border-hairline py-2">
              <span className="w-28 text-ink-2" title={exact(m.failedAt)}>
                {moment(m.failedAt, now)}
              </span>
              <span className="min-w-0 flex-1">
                <span className="font-semibold">{m.subject}</span> to {names.person(m.person)}
                <span className="block text-sm text-late">{m.why}</span>
              </span>
              <Link to="/tickets/$number" params={{ number: m.ticket }} className="link">
                {m.ticket}
              </Link>
              {may && (
                <Button disabled={retry.isPending} onClick={() => retry.mutate([m.id])}>
                  Send again
                </Button>
              )}
            </li>
          ))}
        </ul>
      </div>
    </>
  );
}
