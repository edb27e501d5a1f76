import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { api } from "../../api/client";
import type { LiveTrigger, ScheduleLine, ScheduleTurn } from "../../api/types";
import { Chip, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { Together } from "../../ui/Together";
import { exact, left, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useCalendars } from "./calendars";
import { HookPane } from "./HookPane";
import { rhythmWords } from "./rhythm";
import { StartNow } from "./StartNow";
import { turnWords } from "./words";

/** A schedule with what became of its times, or a hook with how it is called and by whom it was. */
export function StartPage() {
  const { trigger } = useParams({ from: "/starts/$trigger" });
  const calendars = useCalendars();
  const all = useQuery({ queryKey: ["triggers"], queryFn: () => api.get<LiveTrigger[]>("/api/triggers") });
  if (all.isPending || calendars.isPending) return <Loading what="what starts it" />;
  const live = all.data?.find((t) => t.trigger.id === trigger);
  const { when } = live?.trigger ?? {};
  if (all.isLoadingError || !live || (when?.is !== "time comes" && when?.is !== "called"))
    return (
      <div className="p-6">
        {all.isLoadingError ? (
          <Trouble error={all.error} onRetry={() => all.refetch()} />
        ) : (
          <Empty title="There is no such start">
            Its workflow is not live, or its trigger was taken away.{" "}
            <Link to="/starts" className="link">
              All starts
            </Link>
          </Empty>
        )}
      </div>
    );
  return (
    <>
      <PageHead
        title={when.title ?? live.name}
        sub={
          <span className="flex flex-wrap gap-x-1.5">
            {!live.trigger.on && <Chip>switched off</Chip>}
            <span>
              {when.is === "time comes"
                ? rhythmWords(when.rhythm, calendars.nameOf)
                : "when a program calls its address"}{" "}
              · starts{" "}
              <Link to="/workflows/$key" params={{ key: live.workflow }} className="link">
                {live.name}
              </Link>{" "}
              on {when.kind === "incident" ? "a new incident" : `a new ${when.kind ?? "routine"}`}
            </span>
          </span>
        }
      >
        <StartNow live={live} />
        <Link to="/starts" className="link self-center">
          All starts
        </Link>
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        <Together key={trigger}>
          {when.is === "time comes" && <Next trigger={trigger} />}
          {when.is === "time comes" ? <Turns trigger={trigger} /> : <HookPane trigger={trigger} name={live.name} />}
        </Together>
      </div>
    </>
  );
}

/** The times that come next. */
function Next({ trigger }: { trigger: string }) {
  const now = useNow();
  const all = useQuery({
    queryKey: ["schedules"],
    queryFn: () => api.get<ScheduleLine[]>("/api/schedules"),
    refetchInterval: 5_000,
  });
  const line = all.data?.find((s) => s.live.trigger.id === trigger);
  if (!line?.live.trigger.on) return null;
  return (
    <p className="mb-5">
      {line.waits && (
        <strong className="text-soon">Its time has come; it waits until the one before has ended. </strong>
      )}
      {line.next.length === 0 ? (
        "No time comes any more."
      ) : (
        <>
          <strong>Next: </strong>
          {line.next.map((t, i) => (
            <span key={t} title={exact(t)}>
              {i > 0 && " · "}
              {moment(t, now)}
              {i === 0 && <span className="text-ink-2"> in {left(t, now)}</span>}
            </span>
          ))}
        </>
      )}
    </p>
  );
}

/** What became of each of its times, the latest first. */
function Turns({ trigger }: { trigger: string }) {
  const now = useNow();
  const turns = useQuery({
    queryKey: ["turns", trigger],
    queryFn: () => api.get<ScheduleTurn[]>(`/api/schedules/${trigger}/turns`),
    refetchInterval: 5_000,
  });
  if (turns.isPending) return <Loading what="what became of its times" />;
  if (turns.isLoadingError) return <Trouble error={turns.error} onRetry={() => turns.refetch()} />;
  if (turns.data.length === 0)
    return <Empty title="Its time has not come yet">What becomes of each of its times stands here.</Empty>;
  return (
    <section aria-label="What became of its times" className="max-w-3xl">
      <h2 className="mb-1 font-bold">What became of its times</h2>
      <ul>
        {turns.data.map((t) => (
          <Turn key={t.planned} turn={t} now={now} />
        ))}
      </ul>
      {turns.data.length >= 50 && <p className="mt-2 text-sm text-ink-2">The last 50 are shown.</p>}
    </section>
  );
}

function Turn({ turn, now }: { turn: ScheduleTurn; now: number }) {
  const { words, tone } = turnWords(turn);
  return (
    <li className="flex flex-wrap gap-x-4 border-b border-hairline py-1.5">
      <span className="w-44 shrink-0 text-ink-2" title={exact(turn.planned)}>
        {moment(turn.planned, now)}
        {turn.count > 1 && ` – ${moment(turn.last, now)}`}
      </span>
      <span className={tone === "late" ? "text-late" : tone === "soon" ? "text-soon" : ""}>{words}</span>
      {turn.ticket && (
        <Link to="/tickets/$number" params={{ number: turn.ticket }} className="link ml-auto">
          {turn.ticket}
        </Link>
      )}
    </li>
  );
}
