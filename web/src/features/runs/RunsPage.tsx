import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { api } from "../../api/client";
import { useNames, useWorkflows } from "../../api/hooks";
import type { RunLine } from "../../api/types";
import { Button, Chip, Empty, Loading, PageHead, Select, Trouble } from "../../ui/kit";
import { exact, moment, span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { assignedWords } from "../ticket/words";

const STATUSES = ["under way", "stalled", "held", "finished", "stopped"] as const;

const TONES: Record<string, "late" | "soon" | "well" | "plain"> = { stalled: "late", held: "soon", finished: "well" };

/** All runs: where each stands, since when, and for whom it waits. */
export function RunsPage() {
  const names = useNames();
  const now = useNow();
  const navigate = useNavigate();
  const { status = "", workflow = "" } = useSearch({ from: "/runs" });
  const workflows = useWorkflows();
  const runs = useInfiniteQuery({
    queryKey: ["runs", status, workflow],
    queryFn: ({ pageParam }) => {
      const query = new URLSearchParams();
      if (status) query.set("status", status);
      if (workflow) query.set("workflow", workflow);
      if (pageParam) query.set("after", pageParam);
      return api.get<{ items: RunLine[]; more: boolean }>(`/api/runs?${query}`);
    },
    initialPageParam: "",
    getNextPageParam: (page) => (page.more ? page.items.at(-1)?.run.id : undefined),
    placeholderData: keepPreviousData,
  });
  const rows = runs.data?.pages.flatMap((p) => p.items) ?? [];
  const look = (next: { status?: string; workflow?: string }) =>
    navigate({
      to: "/runs",
      search: {
        ...((next.status ?? status) ? { status: next.status ?? status } : {}),
        ...((next.workflow ?? workflow) ? { workflow: next.workflow ?? workflow } : {}),
      },
      replace: true,
    });
  return (
    <>
      <PageHead title="Runs" sub="Where each stands, since when, and for whom it waits" />
      <div className="flex flex-wrap items-end gap-2 border-b border-hairline bg-raised px-5 py-2">
        <Select
          label="Status"
          hideLabel
          value={status}
          onChange={(picked) => look({ status: picked })}
          options={[{ value: "", label: "All runs" }, ...STATUSES.map((s) => ({ value: s, label: s }))]}
        />
        <Select
          label="Workflow"
          hideLabel
          value={workflow}
          onChange={(picked) => look({ workflow: picked })}
          options={[
            { value: "", label: "Every workflow" },
            ...(workflows.data ?? []).map((w) => ({ value: w.key, label: w.name })),
          ]}
        />
      </div>
      {runs.isPending && <Loading what="runs" />}
      {runs.isLoadingError && (
        <div className="p-5">
          <Trouble error={runs.error} onRetry={() => runs.refetch()} />
        </div>
      )}
      {runs.data && rows.length === 0 && (
        <Empty title="No such run">
          {status || workflow ? "Choose another status or workflow above." : "Runs appear here as triggers start them."}
        </Empty>
      )}
      {rows.length > 0 && (
        <div className="min-h-0 flex-1 overflow-auto bg-sheet">
          <table className="w-full text-left">
            <thead className="sticky top-0 bg-raised text-xs text-ink-2">
              <tr className="border-b border-hairline">
                <th className="px-5 py-1.5 font-normal">Run</th>
                <th className="px-2 py-1.5 font-normal">Stands at</th>
                <th className="hidden px-2 py-1.5 font-normal md:table-cell">For</th>
                <th className="hidden px-5 py-1.5 text-right font-normal md:table-cell">Began</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <Line key={r.run.id} line={r} names={names} now={now} />
              ))}
            </tbody>
          </table>
          {runs.hasNextPage && (
            <div className="p-4">
              <Button disabled={runs.isFetchingNextPage} onClick={() => runs.fetchNextPage()}>
                Show more
              </Button>
            </div>
          )}
        </div>
      )}
    </>
  );
}

function Line({ line, names, now }: { line: RunLine; names: ReturnType<typeof useNames>; now: number }) {
  const navigate = useNavigate();
  const { run, standing } = line;
  const first = standing.find((s) => s.stalled) ?? standing[0];
  const whom = standing.map((s) => s.whom).find((w) => w && w.groups.length + w.people.length > 0);
  return (
    <tr
      className="cursor-pointer border-b border-hairline align-top hover:bg-raised"
      onClick={() => navigate({ to: "/tickets/$number", params: { number: run.ticket } })}
    >
      <td className="max-w-xs px-5 py-2">
        <a
          href={`/tickets/${run.ticket}`}
          className="font-semibold hover:underline"
          onClick={(e) => {
            e.preventDefault();
            e.stopPropagation();
            navigate({ to: "/tickets/$number", params: { number: run.ticket } });
          }}
        >
          {run.name}
        </a>{" "}
        <span className="text-ink-2">version {run.version}</span>
        <span className="block truncate text-sm text-ink-2">
          {run.ticket} · {line.ticketTitle}
        </span>
      </td>
      <td className="px-2 py-2">
        <span className="flex flex-wrap items-center gap-2">
          <Chip tone={TONES[run.status] ?? "plain"}>{run.status}</Chip>
          {first ? (
            <span>
              {first.step}
              {standing.length > 1 && ` and ${standing.length - 1} more`}
              <span className="text-ink-2" title={exact(first.since)}>
                {" "}
                for {span(now - new Date(first.since).getTime())}
              </span>
            </span>
          ) : (
            <span>{run.result}</span>
          )}
        </span>
        {first?.stalled && <span className="block text-sm text-late">{first.stalled}</span>}
      </td>
      <td className="hidden px-2 py-2 text-ink-2 md:table-cell">
        {whom ? assignedWords(whom, names) : first && !first.stalled ? "a machine or a moment" : ""}
      </td>
      <td className="hidden px-5 py-2 text-right whitespace-nowrap text-ink-2 md:table-cell">
        <span title={exact(run.startedAt)}>{moment(run.startedAt, now)}</span>
        {run.endedAt && (
          <span className="block text-xs">
            took {span(new Date(run.endedAt).getTime() - new Date(run.startedAt).getTime())}
          </span>
        )}
      </td>
    </tr>
  );
}
