import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api } from "../../api/client";
import type { Further } from "../../api/types";
import { Empty, Loading, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";

/** What others have to do on my tickets, or what I did last. */
export function FurtherList({ done }: { done: boolean }) {
  const now = useNow();
  const further = useQuery({
    queryKey: ["desk", "further"],
    queryFn: () => api.get<Further>("/api/desk/further"),
  });
  if (further.isPending) return <Loading what="the list" />;
  if (further.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={further.error} onRetry={() => further.refetch()} />
      </div>
    );
  const items = done ? further.data.done : further.data.waiting;
  if (items.length === 0)
    return done ? (
      <Empty title="Nothing yet">What you finish or decide stands here, the last first.</Empty>
    ) : (
      <Empty title="You wait for nobody">Steps of others on tickets you asked for or have stand here.</Empty>
    );
  return (
    <ul className="min-h-0 flex-1 overflow-auto bg-sheet">
      {items.map((w) => (
        <li key={w.visit} className="flex flex-wrap items-baseline gap-x-3 border-b border-hairline px-5 py-2">
          <Link to="/tickets/$number" params={{ number: w.ticket }} className="link w-16 font-medium">
            {w.ticket}
          </Link>
          <span className="min-w-0 flex-1">
            <span className="font-semibold">{w.name}</span>
            <span className="block truncate text-sm text-ink-2">
              {w.kind} · {w.ticketTitle}
            </span>
          </span>
          <span className="text-ink-2" title={exact(w.due ?? w.openedAt)}>
            {!done && w.due ? `due ${moment(w.due, now)}` : `since ${moment(w.openedAt, now)}`}
          </span>
        </li>
      ))}
    </ul>
  );
}
