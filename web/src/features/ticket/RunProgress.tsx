import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue } from "../../api/hooks";
import type { Run, Ticket, Version } from "../../api/types";
import { layoutRoute } from "../../route/layout";
import { allSteps, routeSteps } from "../../route/ofVersion";
import { gutterWidth, type Progress, RouteGutter, SMALL } from "../../route/RouteGutter";
import { span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { InterveneDialog } from "./InterveneDialog";

/** A run on its route, small: passed, here, ahead; a click shows the step's entries. */
export function RunProgress({
  run,
  ticket,
  selected,
  onSelect,
}: {
  run: Run;
  ticket: Ticket;
  selected?: string;
  onSelect: (step: string) => void;
}) {
  const now = useNow();
  const [intervening, setIntervening] = useState(false);
  const open = ["under way", "stalled", "held"].includes(run.status);
  const may = open && ticket.mayIntervene;
  const until = run.endedAt ? new Date(run.endedAt).getTime() : now;
  const title = (
    <h2 className="mb-2">
      <Link to="/workflows/$key" params={{ key: run.workflow }} className="font-bold hover:underline">
        {run.name}
      </Link>{" "}
      <span className="whitespace-nowrap text-ink-2">
        {run.version} ·{" "}
        {run.status === "finished" ? `${run.result}, ` : run.status === "under way" ? "under way " : `${run.status} · `}
        {run.status === "finished"
          ? `took ${span(until - new Date(run.startedAt).getTime())}`
          : span(until - new Date(run.startedAt).getTime())}
      </span>
      <Link
        to="/tickets/$number/runs/$run"
        params={{ number: ticket.number, run: run.id }}
        className="link ml-2 text-sm"
      >
        summary
      </Link>
      {may && (
        <button type="button" className="link ml-2 text-sm" onClick={() => setIntervening(true)}>
          intervene…
        </button>
      )}
      {intervening && <InterveneDialog run={run} ticket={ticket.number} onClose={() => setIntervening(false)} />}
    </h2>
  );
  return (
    <section className="mb-6">
      {title}
      <RunRoute run={run} selected={selected} onSelect={onSelect} />
    </section>
  );
}

/** The route of a run, small; nothing until its version is there. */
export function RunRoute({
  run,
  selected,
  onSelect,
  at,
}: {
  run: Run;
  selected?: string;
  /** The moment at which it is looked at; now where none is given. */
  at?: number;
  /** What a click on a step that was reached does; without it the steps are only shown. */
  onSelect?: (step: string) => void;
}) {
  const current = useNow();
  const now = at ?? current;
  const catalogue = useCatalogue();
  const version = useQuery({
    queryKey: ["version", run.workflow, run.version],
    queryFn: () => api.get<Version>(`/api/workflows/${run.workflow}/versions/${run.version}`),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!version.data || !catalogue.data) return null;
  const layout = layoutRoute(routeSteps(version.data, catalogue.data.actions));
  const kinds = new Map(allSteps(version.data.body.steps).map((s) => [s.id, s.kind]));
  const steps = new Map(allSteps(version.data.body.steps).map((s) => [s.id, s]));
  const visits = new Map(run.visits.map((v) => [v.step, v]));
  const progress = (id: string): Progress => {
    const visit = visits.get(id);
    return visit
      ? visit.endedAt || !["under way", "stalled", "held"].includes(run.status)
        ? "passed"
        : "here"
      : "ahead";
  };
  const taken = new Set(run.visits.map((v) => `${v.step} ${v.exit}`));
  return (
    <div className="relative">
      <RouteGutter layout={layout} kinds={kinds} sizes={SMALL} progress={progress} taken={taken} />
      <ol>
        {layout.rows.map((row) => {
          const visit = visits.get(row.id);
          const state = progress(row.id);
          const look = `flex h-full w-full items-center justify-between gap-2 rounded px-1 text-left ${selected === row.id ? "bg-selected" : visit && onSelect ? "hover:bg-here" : ""} ${state === "ahead" ? "text-ink-2" : ""} ${state === "here" ? "font-bold" : ""}`;
          const words = (
            <>
              <span className={`truncate ${row.lane ? "text-xs text-ink-2" : ""}`}>
                {row.lane ?? steps.get(row.id)?.name}
              </span>
              {visit && (
                <span className={`shrink-0 text-xs ${visit.stalled ? "font-semibold text-late" : "text-ink-2"}`}>
                  {visit.stalled ??
                    span(
                      (visit.endedAt ? new Date(visit.endedAt).getTime() : now) - new Date(visit.openedAt).getTime(),
                    )}
                </span>
              )}
            </>
          );
          return (
            <li
              key={row.id}
              aria-current={state === "here" ? "step" : undefined}
              style={{ height: SMALL.rowHeight, paddingLeft: gutterWidth(layout, SMALL) + 2 }}
            >
              {onSelect ? (
                <button
                  type="button"
                  disabled={!visit}
                  aria-pressed={selected === row.id}
                  onClick={() => onSelect(row.id)}
                  className={look}
                >
                  {words}
                </button>
              ) : (
                <span className={look}>{words}</span>
              )}
            </li>
          );
        })}
      </ol>
    </div>
  );
}
