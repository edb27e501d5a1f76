import {
  createRootRoute,
  createRoute,
  createRouter,
  type ErrorComponentProps,
  lazyRouteComponent,
  redirect,
} from "@tanstack/react-router";
import type { ComponentType } from "react";
import { asCompared } from "./features/compare/pairing";
import { asFilter, type DeskFilter } from "./features/desk/filter";
import { FirstPage } from "./features/FirstPage";
import { Shell } from "./features/Shell";
import { Button, Empty, Loading, Trouble } from "./ui/kit";
import { fetchLate } from "./ui/late";

const loaders: (() => Promise<unknown>)[] = [() => import("./features/desk/DeskPage")];

/** A page that comes when it is needed, or a moment after the first one stands. */
function page<M extends Record<K, ComponentType>, K extends string>(load: () => Promise<M>, name: K) {
  loaders.push(load);
  return lazyRouteComponent(load, name);
}

/** Fetches the other pages, and what comes late, once there is time: a key pressed right after a click then finds its page, also without a connection. */
export function fetchOthers(): void {
  const fetchAll = () => {
    void fetchLate();
    for (const load of loaders) load().catch(() => undefined);
  };
  if ("requestIdleCallback" in window) window.requestIdleCallback(fetchAll, { timeout: 3_000 });
  else setTimeout(fetchAll, 1_000);
}

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
    component: FirstPage,
    validateSearch: (s: Record<string, unknown>): { item?: string } & DeskFilter => ({
      ...(typeof s.item === "string" ? { item: s.item } : {}),
      ...asFilter(s),
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/begin",
    component: page(() => import("./features/begin/BeginPage"), "BeginPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/tickets",
    component: page(() => import("./features/tickets/TicketsPage"), "TicketsPage"),
    validateSearch: (s: Record<string, unknown>): { q?: string; raise?: boolean } => ({
      ...(typeof s.q === "string" ? { q: s.q } : {}),
      ...(s.raise === true ? { raise: true } : {}),
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/undelivered",
    component: page(() => import("./features/runs/UndeliveredPage"), "UndeliveredPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/answers",
    component: page(() => import("./features/setup/AnswersPage"), "AnswersPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/tickets/$number",
    component: page(() => import("./features/ticket/TicketPage"), "TicketPage"),
    validateSearch: (s: Record<string, unknown>): { after?: number } =>
      typeof s.after === "number" && Number.isInteger(s.after) && s.after > 0 ? { after: s.after } : {},
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/tickets/$number/runs/$run",
    component: page(() => import("./features/ticket/SummaryPage"), "SummaryPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/compare",
    component: page(() => import("./features/compare/ComparePage"), "ComparePage"),
    validateSearch: asCompared,
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/runs",
    component: page(() => import("./features/runs/RunsPage"), "RunsPage"),
    validateSearch: (s: Record<string, unknown>): { status?: string; workflow?: string } => ({
      ...(typeof s.status === "string" ? { status: s.status } : {}),
      ...(typeof s.workflow === "string" ? { workflow: s.workflow } : {}),
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/workflows",
    component: page(() => import("./features/workflows/WorkflowsPage"), "WorkflowsPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/workflows/$key",
    component: page(() => import("./features/designer/WorkflowPage"), "WorkflowPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/people",
    component: page(() => import("./features/people/PeoplePage"), "PeoplePage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/on-call",
    component: page(() => import("./features/setup/OnCallPage"), "OnCallPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/services",
    component: page(() => import("./features/setup/ServicesPage"), "ServicesPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/automation",
    component: page(() => import("./features/actions/AutomationPage"), "AutomationPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/automation/zones",
    component: page(() => import("./features/actions/ZonesPage"), "ZonesPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/signals",
    component: page(() => import("./features/signals/SignalsPage"), "SignalsPage"),
    validateSearch: (s: Record<string, unknown>): { matter?: string; only?: "needing" } => ({
      ...(typeof s.matter === "string" ? { matter: s.matter } : {}),
      ...(s.only === "needing" ? { only: "needing" as const } : {}),
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/sources",
    component: page(() => import("./features/signals/SourcesPage"), "SourcesPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/sources/$key",
    component: page(() => import("./features/signals/SourcePage"), "SourcePage"),
    validateSearch: (s: Record<string, unknown>): { tab?: "send" | "came" | "means" } =>
      s.tab === "send" || s.tab === "came" || s.tab === "means" ? { tab: s.tab } : {},
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/starts",
    component: page(() => import("./features/starts/StartsPage"), "StartsPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/starts/$trigger",
    component: page(() => import("./features/starts/StartPage"), "StartPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/watches/$key",
    component: page(() => import("./features/starts/WatchPage"), "WatchPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/subscriptions",
    component: page(() => import("./features/feed/SubscriptionsPage"), "SubscriptionsPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/subscriptions/$key",
    component: page(() => import("./features/feed/SubscriptionPage"), "SubscriptionPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/partners",
    component: page(() => import("./features/partners/PartnersPage"), "PartnersPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/partners/$key",
    component: page(() => import("./features/partners/PartnerPage"), "PartnerPage"),
    validateSearch: (s: Record<string, unknown>): { tab?: "tickets" | "log" | "joined" } =>
      s.tab === "tickets" || s.tab === "log" || s.tab === "joined" ? { tab: s.tab } : {},
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/actions/$key",
    component: page(() => import("./features/actions/ActionPage"), "ActionPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/keeping",
    component: page(() => import("./features/setup/KeepingPage"), "KeepingPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/channels",
    component: page(() => import("./features/setup/ChannelsPage"), "ChannelsPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/journal",
    component: page(() => import("./features/setup/JournalPage"), "JournalPage"),
  }),
  createRoute({
    getParentRoute: () => root,
    path: "/cis/$id",
    component: page(() => import("./features/people/CiPage"), "CiPage"),
  }),
];

/** What a page cannot do without stands around it still: the other places, and a way to try again. */
function Broken({ error }: ErrorComponentProps) {
  return (
    <div className="flex max-w-prose flex-col gap-3 p-6">
      <Trouble error={error} />
      <p className="text-ink-2">The other places go on working.</p>
      <div>
        <Button look="primary" onClick={() => window.location.reload()}>
          Load the page again
        </Button>
      </div>
    </div>
  );
}

export const router = createRouter({
  routeTree: root.addChildren(routes),
  // Each page comes when it is needed; what a person points at is fetched before the click.
  defaultPreload: "intent",
  defaultPendingComponent: () => <Loading what="the page" />,
  defaultErrorComponent: Broken,
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
