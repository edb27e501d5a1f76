import { createRootRoute, createRoute, createRouter, redirect } from "@tanstack/react-router";
import { WorkflowPage } from "./features/designer/WorkflowPage";
import { DeskPage } from "./features/desk/DeskPage";
import { asFilter, type DeskFilter } from "./features/desk/filter";
import { CiPage } from "./features/people/CiPage";
import { PeoplePage } from "./features/people/PeoplePage";
import { RunsPage } from "./features/runs/RunsPage";
import { UndeliveredPage } from "./features/runs/UndeliveredPage";
import { Shell } from "./features/Shell";
import { AnswersPage } from "./features/setup/AnswersPage";
import { AutomationPage } from "./features/setup/AutomationPage";
import { JournalPage } from "./features/setup/JournalPage";
import { KeepingPage } from "./features/setup/KeepingPage";
import { OnCallPage } from "./features/setup/OnCallPage";
import { ServicesPage } from "./features/setup/ServicesPage";
import { SummaryPage } from "./features/ticket/SummaryPage";
import { TicketPage } from "./features/ticket/TicketPage";
import { TicketsPage } from "./features/tickets/TicketsPage";
import { WorkflowsPage } from "./features/workflows/WorkflowsPage";
import { Empty } from "./ui/kit";

const root = createRootRoute({
  component: Shell,
  notFoundComponent: () => (
    <Empty title="There is nothing here">The address may be old. Choose a place on the left.</Empty>
  ),
});

const routes = [
  createRoute({
    getParentRoute: () => root,
    path: "/",
    beforeLoad: () => {
      throw redirect({ to: "/desk" });
    },
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/desk",
    component: DeskPage,
    validateSearch: (s: Record<string, unknown>): { item?: string } & DeskFilter => ({
      ...(typeof s.item === "string" ? { item: s.item } : {}),
      ...asFilter(s),
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/tickets",
    component: TicketsPage,
    validateSearch: (s: Record<string, unknown>): { q?: string } => (typeof s.q === "string" ? { q: s.q } : {}),
  }),
  createRoute({ getParentRoute: () => root, path: "/undelivered", component: UndeliveredPage }),
  createRoute({ getParentRoute: () => root, path: "/answers", component: AnswersPage }),
  createRoute({ getParentRoute: () => root, path: "/tickets/$number", component: TicketPage }),
  createRoute({ getParentRoute: () => root, path: "/tickets/$number/runs/$run", component: SummaryPage }),
  createRoute({
    getParentRoute: () => root,
    path: "/runs",
    component: RunsPage,
    validateSearch: (s: Record<string, unknown>): { status?: string; workflow?: string } => ({
      ...(typeof s.status === "string" ? { status: s.status } : {}),
      ...(typeof s.workflow === "string" ? { workflow: s.workflow } : {}),
    }),
  }),
  createRoute({ getParentRoute: () => root, path: "/workflows", component: WorkflowsPage }),
  createRoute({ getParentRoute: () => root, path: "/workflows/$key", component: WorkflowPage }),
  createRoute({ getParentRoute: () => root, path: "/people", component: PeoplePage }),
  createRoute({ getParentRoute: () => root, path: "/on-call", component: OnCallPage }),
  createRoute({ getParentRoute: () => root, path: "/services", component: ServicesPage }),
  createRoute({ getParentRoute: () => root, path: "/automation", component: AutomationPage }),
  createRoute({ getParentRoute: () => root, path: "/keeping", component: KeepingPage }),
  createRoute({ getParentRoute: () => root, path: "/journal", component: JournalPage }),
  createRoute({ getParentRoute: () => root, path: "/cis/$id", component: CiPage }),
];

export const router = createRouter({ routeTree: root.addChildren(routes) });

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
