import { Link, Outlet } from "@tanstack/react-router";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { api } from "../api/client";
import { useDesk } from "../api/hooks";
import { Button } from "../ui/kit";
import { setTheme, type Theme, theme } from "../ui/theme";
import { serverTimeIs } from "../ui/useNow";
import { Wordmark } from "../ui/Wordmark";
import { Finder } from "./finder/Finder";
import { ActAsDialog } from "./people/ActAsDialog";
import { AwayDialog } from "./people/AwayDialog";
import { ReachDialog } from "./people/ReachDialog";
import { PasswordDialog } from "./setup/PasswordDialog";
import { administers, seesAll, useSession } from "./signin/session";
import { TakeBack } from "./ticket/TakeBack";

/** The frame around every place. */
export function Shell() {
  const { session } = useSession();
  const desk = useDesk();
  const [finding, setFinding] = useState(false);
  const [away, setAway] = useState(false);
  const [password, setPassword] = useState(false);
  const [actAs, setActAs] = useState(false);
  const [reach, setReach] = useState(false);
  if (desk.data) serverTimeIs(desk.data.now);
  const all = seesAll(session);
  const needs = (desk.data?.items.length ?? 0) + (desk.data?.covered.length ?? 0) + (desk.data?.stalled.length ?? 0);
  return (
    <div className="flex h-full flex-col md:flex-row print:block print:h-auto">
      <nav
        aria-label="Places"
        className="flex shrink-0 flex-row items-center gap-1 overflow-x-auto border-b print:hidden border-hairline px-3 py-2 md:w-[172px] md:flex-col md:items-stretch md:overflow-visible md:border-r md:border-b-0 md:py-4"
      >
        <div className="mr-3 px-2 md:mr-0 md:mb-4">
          <Wordmark />
        </div>
        <Place to="/desk" count={needs || undefined}>
          Desk
        </Place>
        <Place to="/tickets" count={desk.data?.openTickets || undefined}>
          Tickets
        </Place>
        {all && (
          <>
            <Place to="/runs" count={desk.data?.stalledRuns || undefined} late>
              Runs
            </Place>
            <Place to="/on-call">On call</Place>
            {(desk.data?.undelivered ?? 0) > 0 && (
              <Place to="/undelivered" count={desk.data?.undelivered} late>
                Undelivered
              </Place>
            )}
            <p className="mt-3 hidden px-2 text-xs text-ink-2 md:block">Design</p>
            <Place to="/workflows">Workflows</Place>
            <Place to="/automation">Automation</Place>
            <p className="mt-3 hidden px-2 text-xs text-ink-2 md:block">Organisation</p>
            <Place to="/people">People</Place>
            <Place to="/services">Services</Place>
            <Place to="/answers">Known answers</Place>
            {administers(session) && <Place to="/journal">Journal</Place>}
          </>
        )}
        <div className="ml-auto flex items-center gap-1 md:mt-auto md:ml-0 md:flex-col md:items-stretch">
          {all && (
            <button
              type="button"
              className="flex items-center justify-between gap-2 rounded-md px-2 py-1.5 text-left text-ink-2 hover:bg-here hover:text-ink"
              onClick={() => setFinding(true)}
            >
              Find <kbd className="font-mono text-[11px]">Ctrl K</kbd>
            </button>
          )}
          <Account
            onAway={() => setAway(true)}
            onActAs={() => setActAs(true)}
            onPassword={() => setPassword(true)}
            onReach={() => setReach(true)}
          />
        </div>
      </nav>
      <main className="flex min-h-0 min-w-0 flex-1 flex-col print:block">
        {session.seenBy && <SeenAs name={session.name} acts={session.actsAs} />}
        <Outlet />
      </main>
      {password && <PasswordDialog onClose={() => setPassword(false)} />}
      {reach && <ReachDialog onClose={() => setReach(false)} />}
      {actAs && <ActAsDialog onClose={() => setActAs(false)} />}
      {away && <AwayDialog onClose={() => setAway(false)} />}
      <TakeBack />
      {all && <Finder open={finding} onOpenChange={setFinding} />}
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

function Place({ to, count, late, children }: { to: string; count?: number; late?: boolean; children: string }) {
  return (
    <Link
      to={to}
      className="flex items-center justify-between gap-2 rounded-md px-2 py-1.5 whitespace-nowrap hover:bg-here"
      activeProps={{ className: "bg-here font-semibold", "aria-current": "page" }}
    >
      {children}
      {count !== undefined && (
        <span
          className={late ? "font-semibold text-late" : "text-ink-2"}
          title={late ? `${count} to look at` : undefined}
        >
          {count}
        </span>
      )}
    </Link>
  );
}

function Account({
  onAway,
  onActAs,
  onPassword,
  onReach,
}: {
  onAway: () => void;
  onActAs: () => void;
  onPassword: () => void;
  onReach: () => void;
}) {
  const { session, signOut, demo, standins } = useSession();
  const item = "block w-full cursor-pointer rounded-md px-3 py-1.5 text-left outline-none data-highlighted:bg-here";
  const [current, setCurrent] = useState<Theme>(theme());
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="rounded-md px-2 py-1.5 text-left hover:bg-here">
        <span className="block max-w-36 truncate font-semibold">{session.name}</span>
        <span className="hidden truncate text-xs text-ink-2 md:block">{session.roles.join(", ")}</span>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="z-50 min-w-48 rounded-lg border border-hairline bg-raised p-1 shadow-lg"
        >
          <DropdownMenu.Label className="px-3 py-1 text-xs text-ink-2">Light</DropdownMenu.Label>
          {(["light", "dark", "system"] as const).map((t) => (
            <DropdownMenu.Item
              key={t}
              className={item}
              onSelect={() => {
                setTheme(t);
                setCurrent(t);
              }}
            >
              {t === "light" ? "By day" : t === "dark" ? "By night" : "As the system"} {current === t && "✓"}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Separator className="my-1 h-px bg-hairline" />
          {standins && (
            <DropdownMenu.Item className={item} asChild>
              <a href={standins} target="_blank" rel="noreferrer">
                Stand-ins, mailbox and chat
              </a>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={onAway}>
            When I am away…
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={onReach}>
            How I am reached…
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={onActAs}>
            Let an administrator help…
          </DropdownMenu.Item>
          {!demo && (
            <DropdownMenu.Item className={item} onSelect={onPassword}>
              Change my password…
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={signOut}>
            {demo ? "Be somebody else" : "Sign out"}
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
