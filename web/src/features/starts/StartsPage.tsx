import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { HookLine, ScheduleLine, WatchLine } from "../../api/types";
import { Button, Chip, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, left, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { designs, useSession, works } from "../signin/session";
import { useCalendars } from "./calendars";
import { HeldNotice, HeldStarts, useHeldStarts } from "./HeldStarts";
import { rhythmWords } from "./rhythm";
import { StartNow } from "./StartNow";
import { WatchDialog } from "./WatchDialog";
import { saidTone, saidWords, stateWords, turnWords } from "./words";

/** What starts without anybody: what comes next by its time, and what programs call. */
export function StartsPage() {
  const schedules = useQuery({
    queryKey: ["schedules"],
    queryFn: () => api.get<ScheduleLine[]>("/api/schedules"),
    refetchInterval: 5_000,
  });
  const hooks = useQuery({
    queryKey: ["hooks"],
    queryFn: () => api.get<HookLine[]>("/api/hooks"),
    refetchInterval: 5_000,
  });
  const watches = useQuery({
    queryKey: ["watches"],
    queryFn: () => api.get<WatchLine[]>("/api/watches"),
    refetchInterval: 5_000,
  });
  const { session } = useSession();
  const held = useHeldStarts(works(session));
  const navigate = useNavigate();
  const [making, setMaking] = useState(false);
  if (schedules.isPending || hooks.isPending || watches.isPending || !held)
    return <Loading what="what starts by itself" />;
  const failed = [schedules, hooks, watches].find((q) => q.isLoadingError);
  if (failed)
    return (
      <div className="p-6">
        <Trouble error={failed.error} onRetry={() => failed.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead
        title="Starts"
        sub="What starts workflows by itself: its time, a program that calls, or what a watch sees"
      >
        <HeldNotice held={held} />
        <Link to="/tickets" search={{ q: "kind=routine&open=" }} className="link self-center">
          Routines
        </Link>
        <Link to="/workflows" className="link self-center">
          Workflows
        </Link>
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        <section aria-label="Schedules">
          <h2 className="mb-1 font-bold">By their time</h2>
          {schedules.data?.length === 0 ? (
            <Empty title="Nothing starts by its time">
              A workflow’s What starts it has a trigger for it: once, or again and again.
            </Empty>
          ) : (
            <ul>
              {schedules.data?.map((s) => (
                <Schedule key={s.live.trigger.id} line={s} />
              ))}
            </ul>
          )}
        </section>
        <section aria-label="Hooks" className="mt-8">
          <h2 className="mb-1 font-bold">By a call</h2>
          {hooks.data?.length === 0 ? (
            <Empty title="No program starts anything">
              A workflow’s What starts it has a trigger for it: an address with the values of its start form.
            </Empty>
          ) : (
            <ul>
              {hooks.data?.map((h) => (
                <Hook key={h.live.trigger.id} line={h} />
              ))}
            </ul>
          )}
        </section>
        <section aria-label="Watches" className="mt-8">
          <h2 className="mb-1 font-bold">By looking</h2>
          {watches.data?.length === 0 ? (
            <Empty title="Nothing is looked at">
              A watch reads something again and again; what turns becomes a signal, and opens or starts what signals do.
            </Empty>
          ) : (
            <ul>
              {watches.data?.map((w) => (
                <Watch key={w.key} line={w} />
              ))}
            </ul>
          )}
          {designs(session) && (
            <Button className="mt-3" onClick={() => setMaking(true)}>
              New watch
            </Button>
          )}
        </section>
        <HeldStarts held={held} />
      </div>
      {making && (
        <WatchDialog
          onClose={() => setMaking(false)}
          onMade={(key) => navigate({ to: "/watches/$key", params: { key } })}
        />
      )}
    </>
  );
}

function Watch({ line }: { line: WatchLine }) {
  const now = useNow();
  return (
    <li className={ROW}>
      <div className="min-w-0">
        <Link to="/watches/$key" params={{ key: line.key }} className="link font-semibold">
          {line.name}
        </Link>
        <p className="text-sm text-ink-2">
          {line.action}, every {line.every}
        </p>
      </div>
      <div>
        {!line.on ? (
          <Chip>switched off</Chip>
        ) : line.next ? (
          <span title={exact(line.next)}>
            {moment(line.next, now)} <span className="text-sm text-ink-2">in {left(line.next, now)}</span>
          </span>
        ) : (
          <span className="text-ink-2">begins to look</span>
        )}
      </div>
      <div className="min-w-0 text-sm">
        {line.said && line.since ? (
          <span className={saidTone(line.said)} title={exact(line.since)}>
            {saidWords(line.said)} since {moment(line.since, now)}
          </span>
        ) : (
          <span className="text-ink-2">has not looked yet</span>
        )}
        {line.inFault && (
          <>
            {" "}
            <Chip tone="late">in fault</Chip>
          </>
        )}
      </div>
      <span />
    </li>
  );
}

const ROW =
  "grid items-baseline gap-x-4 gap-y-1 border-b border-hairline py-2.5 md:grid-cols-[minmax(0,1fr)_13rem_16rem_7rem]";

function Schedule({ line }: { line: ScheduleLine }) {
  const now = useNow();
  const { nameOf } = useCalendars();
  const { trigger } = line.live;
  if (trigger.when.is !== "time comes") return null;
  const next = line.next[0];
  const last = line.last && turnWords(line.last);
  return (
    <li className={ROW}>
      <div className="min-w-0">
        <Link to="/starts/$trigger" params={{ trigger: trigger.id }} className="link font-semibold">
          {trigger.when.title ?? line.live.name}
        </Link>
        <p className="text-sm text-ink-2">{rhythmWords(trigger.when.rhythm, nameOf)}</p>
      </div>
      <div>
        {!trigger.on ? (
          <Chip>switched off</Chip>
        ) : line.waits ? (
          <Chip tone="soon">waits for the one before</Chip>
        ) : next ? (
          <span title={exact(next)}>
            {moment(next, now)} <span className="text-sm text-ink-2">in {left(next, now)}</span>
          </span>
        ) : (
          <span className="text-ink-2">no time comes any more</span>
        )}
      </div>
      <div className="min-w-0 text-sm">
        {line.last && last ? (
          <>
            <span className="text-ink-2" title={exact(line.last.last)}>
              {moment(line.last.last, now)}{" "}
            </span>
            <span className={last.tone === "late" ? "text-late" : last.tone === "soon" ? "text-soon" : ""}>
              {last.words}
            </span>{" "}
            {line.last.ticket && (
              <Link to="/tickets/$number" params={{ number: line.last.ticket }} className="link">
                {line.last.ticket}
              </Link>
            )}
          </>
        ) : (
          <span className="text-ink-2">has not come yet</span>
        )}
      </div>
      <div className="justify-self-end">
        <StartNow live={line.live} />
      </div>
    </li>
  );
}

function Hook({ line }: { line: HookLine }) {
  const now = useNow();
  const { trigger } = line.live;
  if (trigger.when.is !== "called") return null;
  return (
    <li className={ROW}>
      <div className="min-w-0">
        <Link to="/starts/$trigger" params={{ trigger: trigger.id }} className="link font-semibold">
          {trigger.when.title ?? line.live.name}
        </Link>
        <p className="truncate font-mono text-xs text-ink-2">{line.path}</p>
      </div>
      <div>
        {!trigger.on ? (
          <Chip>switched off</Chip>
        ) : line.hasToken ? (
          <span className="text-ink-2">takes calls</span>
        ) : (
          <Chip tone="soon">no token yet</Chip>
        )}
      </div>
      <div className="min-w-0 text-sm">
        {line.last ? (
          <>
            <span className="text-ink-2" title={exact(line.last.cameAt)}>
              {moment(line.last.cameAt, now)}{" "}
            </span>
            {line.last.problem ? (
              <span className="text-late">refused</span>
            ) : (
              line.last.ticket && (
                <>
                  {stateWords(line.last.state)}{" "}
                  <Link to="/tickets/$number" params={{ number: line.last.ticket }} className="link">
                    {line.last.ticket}
                  </Link>
                </>
              )
            )}
          </>
        ) : (
          <span className="text-ink-2">nobody has called yet</span>
        )}
      </div>
      <div className="justify-self-end">
        <StartNow live={line.live} />
      </div>
    </li>
  );
}
