import { QueryClientProvider } from "@tanstack/react-query";
import {
  createMemoryHistory,
  createRootRoute,
  createRoute,
  createRouter,
  Outlet,
  RouterProvider,
} from "@tanstack/react-router";
import { cleanup, configure, fireEvent, render, screen, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterAll, afterEach, beforeEach, vi } from "vitest";
import { Queries } from "../api/queries";
import type { Ask, Desk, Directory, Session, Ticket, WorkItem } from "../api/types";
import { SessionContext } from "../features/signin/session";
import { fetchLate } from "../ui/late";

// What a browser has and the played one has not; nothing is laid out there, so nothing is told.
class NothingMoves {
  observe() {}
  unobserve() {}
  disconnect() {}
}
globalThis.ResizeObserver ??= NothingMoves;
if (typeof Element !== "undefined") Element.prototype.scrollIntoView ??= () => undefined;

// What is awaited comes when it comes; on two busy cores that may take a while.
configure({ asyncUtilTimeout: 8_000 });

// A stage for tests of components: a server that answers from a table, and the made-up people of the demo.

/** What a component sent to the server. */
export interface Sent {
  method: string;
  path: string;
  body?: unknown;
  /** The command's id. */
  id?: string;
}

/** What the server answers by method and path; a function sees what was sent, and "no connection" answers nothing. */
export type Answers = Record<string, unknown>;

/** A refusal as the server words it (RFC 9457). */
export class Refusal {
  constructor(
    readonly status: number,
    readonly detail: string,
    readonly more: { where?: string; type?: string; title?: string } = {},
  ) {}
}

export const NO_CONNECTION = Symbol("no connection");

/**
 * Answers the application's calls from a table, which a test may change meanwhile; what neither it nor every page asks for is
 * not found. Returns all that was sent, reads left out.
 */
export function play(answers: Answers): Sent[] {
  const sent: Sent[] = [];
  vi.stubGlobal("fetch", async (path: string, init: RequestInit = {}) => {
    const method = init.method ?? "GET";
    const one: Sent = {
      method,
      path,
      body: typeof init.body === "string" ? JSON.parse(init.body) : undefined,
      id: (init.headers as Record<string, string>)["Idempotency-Key"],
    };
    // Saying that one looks at something is no command; tests of that plan an answer to it.
    if (path.endsWith("/onlookers") && !answers[`${method} ${path}`]) return Response.json({ others: [] });
    if (method !== "GET") sent.push(one);
    const planned = { ...USUAL, ...answers }[`${method} ${path}`];
    const answer = await (typeof planned === "function" ? planned(one) : planned);
    if (answer === NO_CONNECTION) throw new TypeError("no connection");
    if (answer === undefined) return problem(new Refusal(404, `There is no ${path}.`));
    if (answer instanceof Refusal) return problem(answer);
    return answer === null ? new Response(null, { status: 204 }) : Response.json(answer);
  });
  return sent;
}

function problem({ status, detail, more }: Refusal): Response {
  return Response.json({ type: "about:blank", title: "Refused", status, detail, ...more }, { status });
}

export const ADA: Session = { id: "ada", name: "Ada Brandvold", roles: ["agent"], csrf: "c", actsAs: false };
export const MIRA: Session = { id: "mira", name: "Mira Solheim", roles: ["requester"], csrf: "c", actsAs: false };

const person = (id: string, name: string) => ({ id, name, active: true });

export const DIRECTORY: Directory = {
  people: [person("ada", "Ada Brandvold"), person("mira", "Mira Solheim"), person("teo", "Teo Marchetti")],
  groups: [{ id: "managers", name: "Duty managers", members: ["ada", "teo"] }],
  services: [{ id: "gates", name: "Ticket gates" }],
  rotas: [],
  sources: [],
  states: {},
  fields: [],
  ciFields: [],
  ciKinds: {},
  priorities: [
    [1, 1, 2, 3],
    [1, 2, 3, 4],
    [2, 3, 3, 4],
    [3, 4, 4, 4],
  ],
  parts: [],
};

export const TASK: Ask = {
  visit: "I-7.1.1",
  run: "I-7.1",
  workflow: "gate-stuck",
  step: "look",
  kind: "task",
  name: "Look at the gate",
  mine: true,
  overseeing: false,
  openedAt: "2026-03-02T09:50:00Z",
  task: {
    to: { groups: ["managers"], people: [] },
    outcomes: ["Close the lane", "Cleared on the spot"],
    form: [{ name: "seen", label: "What you saw", type: "text", required: false }],
    mayLeaveOut: false,
    draft: {},
  },
  ifNobodyActs: [],
};

export const APPROVAL: Ask = {
  ...TASK,
  visit: "I-7.1.2",
  step: "close",
  kind: "approval",
  name: "Close the lane?",
  task: undefined,
  approval: {
    round: 2,
    digest: "d-2",
    rule: "any one",
    needed: 1,
    electorate: ["ada", "teo"],
    excluded: [],
    cast: {},
    shown: [{ path: "ci.id", label: "Gate", value: "ALD-G1" }],
    commentOnDecline: true,
    commentAlways: false,
    mayAddConditions: false,
    turn: ["ada", "teo"],
    veto: [],
    conditions: {},
    questionOpen: false,
    otherOpenOnCi: 0,
    recentOnCi: 0,
    others: [],
    endings: [],
  },
};

/** A ticket on which something is asked. */
export const ticket = (asks: Ask[], more: Partial<Ticket> = {}): Ticket => ({
  number: "I-7",
  kind: "incident",
  title: "Gate 1 stands open",
  state: "diagnosing",
  moves: [],
  ended: false,
  fields: { priority: "P3" },
  createdAt: "2026-03-02T09:50:00Z",
  updatedAt: "2026-03-02T09:50:00Z",
  seq: 3,
  runs: [],
  asks,
  startable: [],
  readable: false,
  offers: [],
  questions: [],
  late: [],
  files: [],
  links: [],
  folds: [],
  partners: [],
  targets: {},
  parts: {},
  talk: [],
  mayWork: true,
  mayIntervene: false,
  mayTakeBack: [],
  maySay: [],
  mayReadRecord: true,
  ...more,
});

/** What almost every page reads. */
const USUAL: Answers = { "GET /api/directory": DIRECTORY, "GET /api/views": [] };

const waiting = (ask: Ask, on: Ticket): WorkItem => ({
  visit: ask.visit,
  ticket: on.number,
  ticketTitle: on.title,
  priority: "P3",
  kind: ask.kind,
  name: ask.name,
  workflow: ask.workflow,
  openedAt: ask.openedAt,
  held: ask.heldSince !== undefined,
  overseen: ask.overseeing,
});

/** A desk on which all that these tickets ask lies. */
export const desk = (...tickets: Ticket[]): Desk => {
  const items = tickets.flatMap((t) => t.asks.map((a) => waiting(a, t)));
  return {
    items,
    own: items.map((i) => i.visit),
    covered: [],
    stalled: [],
    tickets: [],
    drafts: [],
    now: "2026-03-02T10:00:00Z",
    openTickets: tickets.length,
    stalledRuns: 0,
    undelivered: 0,
    needingSignals: 0,
  };
};

/** Shows a component at an address, to somebody who is signed in. Returns the queries, to read anew as after a change. */
export function show(ui: ReactNode, { as = ADA, at = "/desk" }: { as?: Session; at?: string } = {}) {
  const queries = new Queries({
    defaultOptions: { mutations: { networkMode: "always" }, queries: { networkMode: "always", retry: false } },
  });
  const root = createRootRoute({ component: Outlet });
  const paths = [
    "/desk",
    "/tickets",
    "/tickets/$number",
    "/workflows/$key",
    "/cis/$id",
    "/signals",
    "/sources",
    "/sources/$key",
  ];
  const router = createRouter({
    routeTree: root.addChildren(
      paths.map((path) => createRoute({ getParentRoute: () => root, path, component: () => ui })),
    ),
    history: createMemoryHistory({ initialEntries: [at] }),
  });
  render(
    <QueryClientProvider client={queries}>
      <SessionContext value={{ session: as, demo: false, signOut: () => undefined }}>
        {/* The routes of a test are fewer than those of the application. */}
        <RouterProvider router={router as never} />
      </SessionContext>
    </QueryClientProvider>,
  );
  return { queries, router };
}

beforeEach(async () => {
  await fetchLate();
  sessionStorage.clear();
  localStorage.clear();
  window.scrollTo = () => undefined;
});

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

// What a page does a moment after it is gone, such as giving the keyboard back or keeping a draft, finds its browser still there.
afterAll(() => new Promise((over) => setTimeout(over, 100)));

/** Chooses in a field of the kit, by the words of the choice or what it stands for. */
export async function pick(field: HTMLElement, choice: string): Promise<void> {
  fireEvent.click(field);
  const found = await waitFor(() => {
    const one = screen
      .getAllByRole("option")
      .find((o) => o.dataset.choice === choice || (o.textContent ?? "").trim() === choice);
    if (!one) throw new Error(`There is no choice "${choice}".`);
    return one;
  });
  fireEvent.click(found);
  // The field has the keys again before anything else is opened.
  await waitFor(() => {
    if (field.isConnected && document.activeElement !== field) throw new Error("It is still open.");
  });
}

/** What a field of the kit holds. */
export const held = (field: HTMLElement) => field.dataset.value;
