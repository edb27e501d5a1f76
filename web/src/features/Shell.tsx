import { ListIcon } from "@phosphor-icons/react/List";
import { MagnifyingGlassIcon } from "@phosphor-icons/react/MagnifyingGlass";
import { Outlet } from "@tanstack/react-router";
import { lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { api } from "../api/client";
import { useDesk, useDirectory } from "../api/hooks";
import { useConnection } from "../api/live";
import { Button } from "../ui/kit";
import { late } from "../ui/late";
import { clock } from "../ui/time";
import { serverTimeIs, useNow } from "../ui/useNow";
import { Wordmark } from "../ui/Wordmark";
import { useBeginning } from "./begin/beginning";
import type { Way } from "./finder/Finder";
import type { Dialogs } from "./Menus";
import { Place, type PlaceOf } from "./Place";
import { KeepingBar } from "./setup/KeepingBar";
import { administers, raises, seesAll, useSession } from "./signin/session";
import { TakeBack } from "./ticket/TakeBack";
import { TooLateBar } from "./ticket/TooLateBar";
import { UnsentBar } from "./ticket/UnsentBar";

// Dialogs come when somebody opens one: the first page shall not wait for them.
const Finder = lazy(() => import("./finder/Finder").then((m) => ({ default: m.Finder })));
const ActAsDialog = lazy(() => import("./people/ActAsDialog").then((m) => ({ default: m.ActAsDialog })));
const AwayDialog = lazy(() => import("./people/AwayDialog").then((m) => ({ default: m.AwayDialog })));
const ReachDialog = lazy(() => import("./people/ReachDialog").then((m) => ({ default: m.ReachDialog })));
const TokensDialog = lazy(() => import("./people/TokensDialog").then((m) => ({ default: m.TokensDialog })));
const MoreMenu = late(() => import("./Menus").then((m) => m.MoreMenu));
const AccountMenu = late(() => import("./Menus").then((m) => m.AccountMenu));
const PasswordDialog = lazy(() => import("./setup/PasswordDialog").then((m) => ({ default: m.PasswordDialog })));

/** What people call what is found at a place. */
const ALSO: Record<string, string> = {
  "/begin": "first steps guide set up gallery templates",
  "/desk": "my work what needs me approvals tasks decide",
  "/tickets": "incidents changes requests list search",
  "/signals": "alarms faults monitors matters storm what came in",
  "/subscriptions": "events out feed webhooks deliveries told elsewhere",
  "/partners": "supplier other desk joined tickets exchange",
  "/starts": "schedules hooks times calendar recurring cron webhook routines",
  "/sources": "monitors senders mapping secrets signals",
  "/runs": "stalled waiting",
  "/on-call": "rotas ladders escalation stand in cover hours",
  "/undelivered": "mail messages",
  "/workflows": "process design new workflow",
  "/automation": "connections actions secrets zones relays",
  "/people": "accounts groups roles",
  "/services": "CIs calendars hours targets",
  "/answers": "knowledge",
  "/channels": "sender mail server SMTP IMAP mailbox chat notifications address links",
  "/journal": "log who changed what",
  "/keeping": "audit record seal copies witnesses export",
};

const waysOf = (places: PlaceOf[], raising: boolean): Way[] => [
  ...(raising
    ? [{ label: "Raise a ticket", to: "/tickets?raise=true", words: "new incident change request create open" }]
    : []),
  ...places.map((p) => ({ label: p.name, to: p.to, words: ALSO[p.to] ?? "" })),
];

/** The frame around every place. */
export function Shell() {
  const { session } = useSession();
  const desk = useDesk();
  const names = useDirectory();
  // Names take another width than what stands for them: pages come up with them, unless they cannot be had.
  const named = !names.isPending || names.failureCount > 0;
  // Counts and what is only sometimes there move the places beside them.
  const counted = !desk.isPending || desk.failureCount > 0;
  const [finding, setFinding] = useState(false);
  const [away, setAway] = useState(false);
  const [password, setPassword] = useState(false);
  const [tokens, setTokens] = useState(false);
  const [actAs, setActAs] = useState(false);
  const [reach, setReach] = useState(false);
  useEffect(() => {
    const listener = (event: KeyboardEvent) => {
      if ((event.metaKey || event.ctrlKey) && event.key === "k") {
        event.preventDefault();
        setFinding(true);
      }
    };
    window.addEventListener("keydown", listener);
    return () => window.removeEventListener("keydown", listener);
  }, []);
  if (desk.data) serverTimeIs(desk.data.now);
  const all = seesAll(session);
  const needs =
    (desk.data?.items.filter((w) => !w.overseen).length ?? 0) +
    (desk.data?.covered.filter((c) => !c.item.overseen).length ?? 0) +
    (desk.data?.stalled.length ?? 0);
  const beginning = useBeginning(administers(session));
  const places: PlaceOf[] = [
    ...(beginning.left.length > 0 ? [{ to: "/begin", name: "Begin", count: beginning.left.length }] : []),
    { to: "/desk", name: all ? "Desk" : "My page", count: needs },
    { to: "/tickets", name: "Tickets", count: desk.data?.openTickets },
    ...(all
      ? [
          { to: "/signals", name: "Signals", count: desk.data?.needingSignals, late: true },
          { to: "/runs", name: "Runs", count: desk.data?.stalledRuns, late: true },
          { to: "/on-call", name: "On call" },
          ...(desk.data?.undelivered
            ? [{ to: "/undelivered", name: "Undelivered", count: desk.data.undelivered, late: true }]
            : []),
          { to: "/workflows", name: "Workflows", begins: "Design" },
          { to: "/starts", name: "Starts" },
          { to: "/automation", name: "Automation" },
          { to: "/sources", name: "Sources" },
          { to: "/partners", name: "Partners" },
          { to: "/subscriptions", name: "Subscriptions" },
          { to: "/people", name: "People", begins: "Organisation" },
          { to: "/services", name: "Services" },
          { to: "/answers", name: "Known answers" },
          ...(administers(session)
            ? [
                { to: "/channels", name: "Mail and chat" },
                { to: "/journal", name: "Journal" },
              ]
            : []),
          { to: "/keeping", name: "Keeping" },
        ]
      : []),
  ];
  const account = (
    <Account
      onAway={() => setAway(true)}
      onActAs={() => setActAs(true)}
      onPassword={() => setPassword(true)}
      onTokens={() => setTokens(true)}
      onReach={() => setReach(true)}
    />
  );
  return (
    <div className="flex h-full flex-col md:flex-row print:block print:h-auto">
      <nav
        aria-label="Places"
        className={`flex shrink-0 flex-row items-center gap-1 border-b border-hairline px-3 py-2 md:w-[172px] md:flex-col md:items-stretch md:gap-0.5 md:border-r md:border-b-0 md:py-4 print:hidden ${counted ? "" : "invisible"}`}
      >
        <div className="mr-1 px-1 md:mr-0 md:mb-4 md:px-2">
          <Wordmark small />
        </div>
        {places.map((p, i) => (
          <Place key={p.to} place={p} onPhone={i < ON_PHONE} />
        ))}
        <div className="ml-auto flex min-w-0 items-center gap-1 md:mt-auto md:ml-0 md:flex-col md:items-stretch">
          {all && (
            <button
              type="button"
              className="flex items-center justify-between gap-2 rounded-md px-2 py-1.5 text-left text-ink-2 hover:bg-here hover:text-ink"
              onClick={() => setFinding(true)}
            >
              <MagnifyingGlassIcon aria-hidden="true" className="md:hidden" size={18} />
              <span className="max-md:sr-only">Find</span>
              <kbd className="hidden font-mono text-[11px] md:inline">Ctrl K</kbd>
            </button>
          )}
          {places.length > ON_PHONE && <More places={places.slice(ON_PHONE)} />}
          {account}
        </div>
      </nav>
      <main className={`flex min-h-0 min-w-0 flex-1 flex-col print:block ${named ? "" : "invisible"}`}>
        {session.seenBy && <SeenAs name={session.name} acts={session.actsAs} />}
        <Disconnected />
        <KeepingBar />
        <UnsentBar />
        <Outlet />
      </main>
      <Suspense>
        {tokens && <TokensDialog onClose={() => setTokens(false)} />}
        {password && <PasswordDialog onClose={() => setPassword(false)} />}
        {reach && <ReachDialog onClose={() => setReach(false)} />}
        {actAs && <ActAsDialog onClose={() => setActAs(false)} />}
        {away && <AwayDialog onClose={() => setAway(false)} />}
      </Suspense>
      <TakeBack />
      <TooLateBar />
      {all && finding && (
        <Suspense>
          <Finder open onOpenChange={setFinding} ways={waysOf(places, raises(session))} />
        </Suspense>
      )}
    </div>
  );
}

/** Says that somebody only looks, and leads back. */
function SeenAs({ name, acts }: { name: string; acts: boolean }) {
  const back = async () => {
    await api.delete("/api/session/see-as");
    window.location.assign("/people");
  };
  return (
    <div role="status" className="flex flex-wrap items-center gap-3 border-b border-soon bg-selected px-5 py-2">
      <span>
        You see Dastur as <strong>{name}</strong>.{" "}
        {acts
          ? "You may work on tickets, because they said so; both names go onto the record."
          : "Nothing can be changed meanwhile."}
      </span>
      <Button onClick={back}>Be myself again</Button>
    </div>
  );
}

/** How long a connection may be gone before it is worth a word, in milliseconds: a stream breaks off now and then. */
const NOTICED = 4_000;

/** Says that what is on the screen may be old. */
function Disconnected() {
  const { lostAt } = useConnection();
  useNow();
  if (lostAt === undefined || Date.now() - lostAt < NOTICED) return null;
  return (
    <div role="status" className="border-b border-soon bg-selected px-5 py-2">
      <strong className="text-soon">No connection</strong> since {clock(new Date(lostAt).toISOString())}. What you see
      is as of then, and what you type is kept; it goes on by itself when the server answers.
    </div>
  );
}

/** How many places stand in the bar of a phone; the rest are one press further. */
const ON_PHONE = 2;

/** On a phone: the places for which the bar has no room. */
function More({ places }: { places: PlaceOf[] }) {
  const [asked, setAsked] = useState(false);
  const toSee = places.some((p) => p.late && p.count);
  const words = (
    <>
      <ListIcon aria-hidden="true" size={18} />
      {toSee && <span className="size-2 rounded-full bg-late" title="Something is to be looked at" />}
    </>
  );
  const look = "flex items-center gap-1 rounded-md px-2 py-1.5 hover:bg-here md:hidden";
  const button = <Opener label="More places" className={look} words={words} onOpen={() => setAsked(true)} />;
  if (!asked) return button;
  return <MoreMenu places={places} className={look} words={words} before={button} />;
}

function Account(on: Dialogs) {
  const { session } = useSession();
  const [asked, setAsked] = useState(false);
  const words = (
    <>
      <span className="block max-w-24 truncate font-semibold md:max-w-36">{session.name}</span>
      <span className="hidden truncate text-xs text-ink-2 md:block">{session.roles.join(", ")}</span>
    </>
  );
  const look = "rounded-md px-2 py-1.5 text-left hover:bg-here";
  const button = <Opener className={look} words={words} onOpen={() => setAsked(true)} />;
  if (!asked) return button;
  return <AccountMenu {...on} className={look} words={words} before={button} />;
}

/** Stands where a menu will be until somebody wants it: what menus are made of comes late. */
function Opener({
  label,
  className,
  words,
  onOpen,
}: {
  label?: string;
  className: string;
  words: ReactNode;
  onOpen: () => void;
}) {
  return (
    <button
      type="button"
      aria-haspopup="menu"
      aria-expanded={false}
      aria-label={label}
      className={className}
      onClick={onOpen}
      onKeyDown={(e) => {
        if (e.key !== "ArrowDown") return;
        e.preventDefault();
        onOpen();
      }}
    >
      {words}
    </button>
  );
}
