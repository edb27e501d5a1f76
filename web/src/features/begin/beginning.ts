import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { api, ProblemError } from "../../api/client";
import type { ChannelsView, People, Services, TicketPage, WorkflowSummary } from "../../api/types";

/** The steps from an empty installation to a first ticket that walked through a workflow (O3), in their order. */
export const STEPS = ["people", "mail", "groups", "services", "workflow", "ticket"] as const;

export type BeginStep = (typeof STEPS)[number];

/** By what people are told; undefined for those who do not set it, and need not. */
const channels = () =>
  api.get<ChannelsView>("/api/channels").catch((e: unknown) => {
    if (e instanceof ProblemError && e.problem.status === 403) return undefined;
    throw e;
  });

/** Which are done, by what is there. */
async function read(): Promise<Record<BeginStep, boolean>> {
  const [people, told, services, workflows, ended] = await Promise.all([
    api.get<People>("/api/people"),
    channels(),
    api.get<Services>("/api/services"),
    api.get<WorkflowSummary[]>("/api/workflows"),
    api.get<TicketPage>("/api/tickets?open=false"),
  ]);
  return {
    people: people.people.length > 1,
    // Whatever was said of it, here or at the start; the sender of an installation that nobody told is of no domain.
    mail: !told || told.mail.here || !told.mail.from.endsWith("@localhost.localdomain"),
    groups: people.groups.length > 0,
    services: services.services.length > 0,
    workflow: workflows.some((w) => w.liveVersion !== undefined),
    ticket: ended.items.length > 0,
  };
}

const SKIPPED = "dastur-begin-skipped";

function skippedBefore(): BeginStep[] {
  const kept = (localStorage.getItem(SKIPPED) ?? "").split(",");
  return STEPS.filter((s) => kept.includes(s));
}

/** One for the page and for the place that leads to it. */
const useSkipped = create<{ skipped: BeginStep[] }>(() => ({ skipped: skippedBefore() }));

/** How far an installation has come, for those who set it up. */
export function useBeginning(wanted: boolean) {
  const { skipped } = useSkipped();
  const query = useQuery({
    queryKey: ["beginning"],
    queryFn: read,
    enabled: wanted,
    // Whoever comes to the page has just done something elsewhere.
    refetchOnMount: "always",
    // Once all is there it stays there: nothing is asked again until the page is loaded anew.
    refetchInterval: (q) => (q.state.data && STEPS.every((s) => q.state.data?.[s]) ? false : 60_000),
  });
  const done = query.data;
  const put = (next: BeginStep[]) => {
    localStorage.setItem(SKIPPED, next.join(","));
    useSkipped.setState({ skipped: next });
  };
  return {
    query,
    skipped,
    skip: (step: BeginStep) => put([...skipped, step]),
    unskip: (step: BeginStep) => put(skipped.filter((s) => s !== step)),
    left: done ? STEPS.filter((s) => !done[s] && !skipped.includes(s)) : [],
  };
}
