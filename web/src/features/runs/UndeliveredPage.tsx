import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { UndeliveredMessage } from "../../api/types";
import { Button, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { raises, useSession } from "../signin/session";

/** So many messages of one kind are shown without being asked for. */
const SEEN_AT_ONCE = 5;

/** Messages to one person that failed for one reason, the latest first: one thing to mend, however many there are. */
function grouped(all: UndeliveredMessage[]) {
  const groups = new Map<
    string,
    { key: string; person: string; why: string | undefined; messages: UndeliveredMessage[] }
  >();
  for (const m of [...all].sort((a, b) => b.failedAt.localeCompare(a.failedAt))) {
    const key = `${m.person} ${m.why}`;
    const group = groups.get(key) ?? { key, person: m.person, why: m.why, messages: [] as UndeliveredMessage[] };
    group.messages.push(m);
    groups.set(key, group);
  }
  return [...groups.values()];
}

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
        {grouped(all).map((g) => (
          <details key={g.key} open={g.messages.length <= SEEN_AT_ONCE} className="border-b border-hairline py-2">
            <summary className="flex cursor-pointer flex-wrap items-baseline gap-x-3">
              <span className="min-w-0 flex-1">
                <strong>
                  {g.messages.length} {g.messages.length === 1 ? "message" : "messages"}
                </strong>{" "}
                to {names.person(g.person)} <span className="text-late">· {g.why}</span>
              </span>
              <span className="text-ink-2">last {moment(g.messages[0]?.failedAt ?? "", now)}</span>
              {may && g.messages.length > 1 && (
                <Button
                  disabled={retry.isPending}
                  onClick={(e) => {
                    e.preventDefault();
                    retry.mutate(g.messages.map((m) => m.id));
                  }}
                >
                  Send these again
                </Button>
              )}
            </summary>
            <ul className="mt-1 pl-4">
              {g.messages.map((m) => (
                <li key={m.id} className="flex flex-wrap items-baseline gap-x-3 border-b border-hairline py-2">
                  <span className="w-28 text-ink-2" title={exact(m.failedAt)}>
                    {moment(m.failedAt, now)}
                  </span>
                  <span className="min-w-0 flex-1">
                    <span className="font-semibold">{m.subject}</span>
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
          </details>
        ))}
      </div>
    </>
  );
}
