import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Summary } from "../../api/types";
import { Button, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment, span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { isTable, ValueTable } from "../../ui/ValueTable";
import { valueWords } from "./words";

/** A run in one document: what went in, each step with planned and actual times, values and checks, what came out. */
export function SummaryPage() {
  const { number, run } = useParams({ from: "/tickets/$number/runs/$run" });
  const now = useNow();
  const path = `/api/tickets/${number}/runs/${encodeURIComponent(run)}/summary`;
  const summary = useQuery({ queryKey: ["summary", run], queryFn: () => api.get<Summary>(path) });
  const download = async () => {
    const response = await fetch(path, { headers: { Accept: "text/markdown" } });
    const link = document.createElement("a");
    link.href = URL.createObjectURL(await response.blob());
    link.download = `${run}.md`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  if (summary.isPending) return <Loading what="the summary" />;
  if (summary.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={summary.error} onRetry={() => summary.refetch()} />
      </div>
    );
  const s = summary.data;
  const took = (from: string, to: string) => span(Date.parse(to) - Date.parse(from));
  return (
    <>
      <PageHead
        title={`${s.workflow} on ${s.ticket}`}
        sub={
          <>
            <Link to="/tickets/$number" params={{ number }} className="link">
              {s.title}
            </Link>{" "}
            · version {s.version} · {s.endedAt ? `${s.result}, took ${took(s.startedAt, s.endedAt)}` : "under way"}
          </>
        }
      >
        <span className="flex gap-2 print:hidden">
          <Link to="/compare" search={{ of: number }} className="link self-center">
            Compare measurements
          </Link>
          <Button onClick={download}>As Markdown</Button>
          <Button onClick={() => window.print()}>Print or PDF</Button>
        </span>
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto bg-sheet p-5 print:overflow-visible">
        <Lines title="What went in" lines={s.inputs} />
        <h2 className="mb-1 font-bold">Timetable</h2>
        <table className="mb-6 w-full max-w-5xl text-left">
          <thead className="text-xs text-ink-2">
            <tr className="border-b border-hairline">
              <th className="py-1 font-medium">Step</th>
              <th className="font-medium">Began</th>
              <th className="font-medium">Ended</th>
              <th className="font-medium">Took</th>
              <th className="font-medium">Planned until</th>
              <th className="font-medium">By</th>
              <th className="font-medium">Left by</th>
            </tr>
          </thead>
          <tbody>
            {s.steps.map((p) => (
              <tr key={p.visit} className="border-b border-hairline align-top [&>td]:py-1">
                <td className="pr-3 font-medium">
                  {p.putsBack && <span className="font-normal text-ink-2">put back: </span>}
                  {p.name}
                </td>
                <td className="pr-3" title={exact(p.openedAt)}>
                  {moment(p.openedAt, now)}
                </td>
                <td className="pr-3">{p.endedAt ? moment(p.endedAt, now) : "open"}</td>
                <td className="pr-3">{p.endedAt ? took(p.openedAt, p.endedAt) : ""}</td>
                <td className={`pr-3 ${p.overrunSeconds > 0 ? "font-semibold text-late" : "text-ink-2"}`}>
                  {p.due ? moment(p.due, now) : "—"}
                  {p.overrunSeconds > 0 && `, ${span(p.overrunSeconds * 1000)} late`}
                </td>
                <td className="pr-3">{p.by ?? "—"}</td>
                <td>{p.exit ?? ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {s.steps
          .filter((p) => p.lines.length > 0)
          .map((p) => (
            <Lines key={p.visit} title={p.name} lines={p.lines} />
          ))}
        <Lines title="What people did to it as a whole" lines={s.interventions} />
        <Lines title="Files attached meanwhile" lines={s.files} />
        <Lines title="What came out" lines={s.results} />
      </div>
    </>
  );
}

/** "ticket.impact" as people call it. */
function useLabels() {
  const { directory } = useNames();
  return (label: string) => {
    const [root, name] = label.split(".");
    const fields = root === "ticket" ? directory?.fields : root === "ci" ? directory?.ciFields : undefined;
    const known = fields?.find((f) => f.name === name)?.label;
    return known ? (root === "ci" ? `CI: ${known}` : known) : label;
  };
}

function Lines({ title, lines }: { title: string; lines: { label: string; value: string; data?: unknown }[] }) {
  const labelOf = useLabels();
  if (lines.length === 0) return null;
  return (
    <section className="mb-5 max-w-3xl break-inside-avoid">
      <h2 className="mb-1 font-bold">{title}</h2>
      <dl>
        {lines.map((l, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a label may stand twice
          <div key={i} className="grid grid-cols-[200px_1fr] gap-3 border-b border-hairline py-1">
            <dt className="text-ink-2">{labelOf(l.label)}</dt>
            <dd className="break-words whitespace-pre-wrap">
              {isTable(l.data) ? <ValueTable rows={l.data} words={valueWords} /> : valueWords(l.data ?? l.value)}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
