import { useInfiniteQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { JournalLines } from "../../api/types";
import { Button, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";

/** Who changed the set-up, newest first. */
export function JournalPage() {
  const names = useNames();
  const now = useNow();
  const pages = useInfiniteQuery({
    queryKey: ["journal"],
    queryFn: ({ pageParam }) => api.get<JournalLines>(`/api/journal${pageParam ? `?before=${pageParam}` : ""}`),
    initialPageParam: 0,
    getNextPageParam: (last: JournalLines) => (last.more ? last.lines.at(-1)?.number : undefined),
  });
  if (pages.isPending) return <Loading what="the journal" />;
  if (pages.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={pages.error} onRetry={() => pages.refetch()} />
      </div>
    );
  const lines = pages.data.pages.flatMap((p) => p.lines);
  return (
    <>
      <PageHead title="Journal" sub="Who changed accounts, groups, services, rotas and automation" />
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {lines.length === 0 && <Empty title="Nothing was changed yet">Each change of the set-up stands here.</Empty>}
        <ol>
          {lines.map((l) => (
            <li key={l.number} className="grid gap-x-3 border-b border-hairline py-1.5 md:grid-cols-[130px_180px_1fr]">
              <span className="text-ink-2" title={exact(l.at)}>
                {moment(l.at, now)}
              </span>
              <span className="font-semibold">{names.person(l.by)}</span>
              <span className="min-w-0">
                {l.subject} <span className="font-mono text-xs">{l.id}</span> {l.did}
                {l.detail && <span className="block text-sm break-words text-ink-2">{l.detail}</span>}
              </span>
            </li>
          ))}
        </ol>
        {pages.hasNextPage && (
          <Button className="mt-3" disabled={pages.isFetchingNextPage} onClick={() => pages.fetchNextPage()}>
            Earlier
          </Button>
        )}
      </div>
    </>
  );
}
