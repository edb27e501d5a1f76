import { EyeIcon } from "@phosphor-icons/react/Eye";
import { PencilSimpleIcon } from "@phosphor-icons/react/PencilSimple";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import { useSession } from "../signin/session";

type Other = { person: string; writes: boolean };

/** How often one says that one is still there, and how long after the last key one still counts as writing; in milliseconds. */
const EVERY = 10_000;
const WRITING = 15_000;

/** Whether a key pressed there changes something that is meant for the ticket. */
const isWriting = (target: EventTarget | null) =>
  target instanceof HTMLTextAreaElement || (target instanceof HTMLInputElement && target.type !== "search");

/**
 * Who else has the ticket before them, told among those who see all (O9). One's own looking is told while the page can be seen. The line
 * keeps its place where nobody else looks, so that nothing slides when somebody comes.
 */
export function Onlookers({ ticket }: { ticket: string }) {
  const { session } = useSession();
  const names = useNames();
  const [others, setOthers] = useState<Other[]>([]);
  const hidden = session.seenBy !== undefined;
  useEffect(() => {
    if (hidden) return;
    let typed = 0;
    let gone = false;
    const path = `/api/tickets/${ticket}/onlookers`;
    const say = async (leaves: boolean) => {
      try {
        const told = await api.post<{ others: Other[] }>(path, { writes: Date.now() - typed < WRITING, leaves });
        if (!gone) setOthers(told.others);
      } catch {
        // Who looks is not worth a word about a connection that is gone; others tell of that.
        if (!gone) setOthers([]);
      }
    };
    const look = () => {
      if (document.visibilityState === "visible") void say(false);
      else void say(true);
    };
    const onInput = (e: Event) => {
      if (!isWriting(e.target)) return;
      const first = Date.now() - typed > WRITING;
      typed = Date.now();
      if (first) look();
    };
    look();
    const timer = window.setInterval(() => document.visibilityState === "visible" && void say(false), EVERY);
    document.addEventListener("visibilitychange", look);
    window.addEventListener("input", onInput);
    return () => {
      gone = true;
      window.clearInterval(timer);
      document.removeEventListener("visibilitychange", look);
      window.removeEventListener("input", onInput);
      void say(true);
    };
  }, [ticket, hidden]);
  return (
    <div aria-live="polite" className="flex min-h-5 flex-wrap gap-x-3 text-sm">
      {others.slice(0, 3).map((o) => (
        <span key={o.person} className={`inline-flex items-center gap-1 ${o.writes ? "text-soon" : "text-ink-2"}`}>
          {o.writes ? <PencilSimpleIcon aria-hidden size={14} /> : <EyeIcon aria-hidden size={14} />}
          {names.person(o.person)} {o.writes ? "writes here" : "looks at this too"}
        </span>
      ))}
      {others.length > 3 && <span className="text-ink-2">and {others.length - 3} more</span>}
    </div>
  );
}
