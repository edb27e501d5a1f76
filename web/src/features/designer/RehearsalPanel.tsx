import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Answer, Explored, KeptCase, KeptCases, Rehearsal, Replayed, Trigger, Version } from "../../api/types";
import { Button, Input, Trouble } from "../../ui/kit";
import { clock, day, span } from "../../ui/time";
import { story } from "../ticket/story";
import { valueWords } from "../ticket/words";
import { answerWords } from "./AnswersAt";
import { useAsking } from "./asking";
import { drawn, type Ending, marksOf, waysWords } from "./endings";
import { stepOf } from "./model";
import { ASKS, inputsOf, RehearsalStart, type Typed, unsaid } from "./RehearsalStart";
import { waysTaken } from "./waysTaken";

interface Props {
  version: Version;
  /** What starts it: a rehearsal can begin by each of them. */
  triggers: Trigger[];
  /** Tells the route which steps the rehearsal has come to, in order, and which wait now. */
  /** @param ways those taken so far, as "step exit" */
  onProgress: (path: string[], waiting: string[], ways: string[]) => void;
  /** Marks the route with what exploring found; undefined takes the marks away. */
  onMarks: (marks: Map<string, string> | undefined) => void;
  onSelect: (step: string) => void;
  onClose: () => void;
}

const START: Record<string, string> = { title: "A rehearsal", ci: "ALD-G1", impact: "2" };

/** Trying the draft without harm: a virtual clock, and answers given by the designer. Nothing is written or called. */
export function RehearsalPanel({ version, triggers, onProgress, onMarks, onSelect, onClose }: Props) {
  const names = useNames();
  const [typed, setTyped] = useState<Typed>({ ticket: "", fields: START, inputs: {}, at: "" });
  const { ticket, fields, inputs, by } = typed;
  const trigger = triggers.find((t) => t.id === by?.trigger);
  const [answers, setAnswers] = useState<Answer[]>();
  const [toTheEnd, setToTheEnd] = useState(false);
  const [failing, setFailing] = useState<string>();
  const [view, setView] = useState<"play" | "explore" | "replay" | "kept">("play");
  const number = (text: string) => (/^-?\d+(\.\d+)?$/.test(text) ? Number(text) : text);
  const typedValue = (f: Version["startForm"][number], text: string) =>
    f.type === "whole number" || f.type === "number" ? number(text) : f.type === "yes or no" ? text === "true" : text;
  const setting = {
    version,
    ...(trigger && { begins: by }),
    ...(trigger && ASKS[trigger.when.is].at && typed.at && { start: new Date(typed.at).toISOString() }),
    ...(ticket.trim()
      ? { ticket: ticket.trim() }
      : { fields: { ...fields, impact: Number(fields.impact) || 2 } as Record<string, unknown> }),
    inputs: Object.fromEntries(
      inputsOf(trigger, version).flatMap((f) =>
        inputs[f.name] ? [[f.name, typedValue(f, inputs[f.name] ?? "")]] : [],
      ),
    ),
  };
  const played = useQuery({
    queryKey: ["rehearsal", setting, answers, toTheEnd, failing],
    queryFn: () =>
      api.post<Rehearsal>("/api/rehearsals", { ...setting, answers, toTheEnd, failing: failing ? [failing] : [] }),
    enabled: answers !== undefined,
    placeholderData: (before) => before,
    retry: false,
  });
  const explore = useMutation({
    mutationFn: async () => ({ of: version, all: await api.post<Explored>("/api/rehearsals/explore", setting) }),
  });
  // What was found of the route as it was says nothing of the one that is drawn.
  const found = explore.data?.of === version ? explore.data.all : undefined;
  useEffect(() => {
    onMarks(view === "explore" && found ? marksOf(found) : undefined);
    return () => onMarks(undefined);
  }, [view, found, onMarks]);
  const replay = useMutation({
    mutationFn: () => api.post<{ runs: Replayed[] }>("/api/rehearsals/replay", { version, most: 10 }),
  });
  const stage = answers === undefined ? undefined : played.data;
  const path = stage?.path.join() ?? "";
  const waits = stage?.asked.map((a) => a.step).join() ?? "";
  const ways = waysTaken(stage?.record ?? []).join("\n");
  useEffect(() => {
    onProgress(path ? path.split(",") : [], waits ? waits.split(",") : [], ways ? ways.split("\n") : []);
  }, [path, waits, ways, onProgress]);
  useEffect(() => () => onProgress([], [], []), [onProgress]);

  const asked = view === "play" && !stage?.ended ? stage?.asked : undefined;
  useEffect(() => {
    useAsking.setState({
      asked: asked ?? [],
      answer: (a) => {
        setToTheEnd(false);
        setAnswers((before) => [...(before ?? []), a]);
      },
    });
  }, [asked]);
  useEffect(() => () => useAsking.setState({ asked: [] }), []);
  const missing = inputsOf(trigger, version).filter((f) => f.required && !(inputs[f.name] ?? "").trim());
  const cannotBegin = missing.length > 0 || unsaid(typed, trigger);
  const begin = () => {
    setToTheEnd(false);
    setFailing(undefined);
    setAnswers([]);
    setView("play");
  };
  const result = stage?.ended ?? (stage?.stalled ? `stalls: ${stage.stalled}` : undefined);
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-center justify-between">
        <h2 className="text-base font-bold">Rehearsal</h2>
        <Button look="quiet" onClick={onClose}>
          Back to the step
        </Button>
      </div>
      <p className="text-sm text-ink-2">Nothing is written, nobody is told, nothing outside is called.</p>
      <div className="flex flex-wrap gap-1" role="group" aria-label="What to try">
        <Button aria-pressed={view === "play"} onClick={() => setView("play")}>
          Play
        </Button>
        <Button
          aria-pressed={view === "explore"}
          onClick={() => {
            setView("explore");
            if (!cannotBegin) explore.mutate();
          }}
        >
          Explore all ways
        </Button>
        <Button
          aria-pressed={view === "replay"}
          onClick={() => {
            setView("replay");
            replay.mutate();
          }}
        >
          Replay runs
        </Button>
        <Button aria-pressed={view === "kept"} onClick={() => setView("kept")}>
          Kept
        </Button>
      </div>

      {view === "play" && answers === undefined && (
        <RehearsalStart version={version} triggers={triggers} typed={typed} onChange={setTyped} onBegin={begin} />
      )}
      {view === "play" && played.isError && answers !== undefined && (
        <Trouble error={played.error} onRetry={() => setAnswers(undefined)} />
      )}
      {view === "play" && stage && (
        <>
          {stage.refused && <p className="text-sm text-late">{stage.refused}</p>}
          {result && (
            <p role="status" className={`font-semibold ${stage.ended ? "text-well" : "text-late"}`}>
              {stage.ended ? `Ends with “${stage.ended}”` : result} after {span(stage.tookSeconds * 1000)}
            </p>
          )}
          {!result && stage.asked.length > 0 && (
            <p>
              It waits at{" "}
              {[...new Map(stage.asked.map((a) => [a.step, a.name]))].map(([step, name], i) => (
                <span key={step}>
                  {i > 0 && ", "}
                  <button
                    type="button"
                    className="link font-semibold"
                    onClick={() => {
                      onSelect(step);
                      document.querySelector(`[data-step="${step}"]`)?.scrollIntoView({ block: "center" });
                    }}
                  >
                    {name}
                  </button>
                </span>
              ))}
              : answer it on the route.
            </p>
          )}
          <p className="text-sm text-ink-2">
            The clock stands at{" "}
            <strong className="text-ink">
              {day(stage.now)} {clock(stage.now)}
            </strong>
            , {span(stage.tookSeconds * 1000)} after the beginning.
          </p>
          <div className="flex flex-wrap gap-1">
            {stage.asked.length > 0 && <Button onClick={() => setToTheEnd(true)}>To the end, as expected</Button>}
            <Button
              disabled={(answers ?? []).length === 0 && !toTheEnd}
              onClick={() => (toTheEnd ? setToTheEnd(false) : setAnswers((answers ?? []).slice(0, -1)))}
            >
              Back one answer
            </Button>
            <Button look="quiet" onClick={() => setAnswers(undefined)}>
              Start anew
            </Button>
          </div>
          {failing && (
            <p className="text-sm text-ink-2">
              As if “{stepOf(version, failing)?.name ?? failing}” did not hold.{" "}
              <button type="button" className="link" onClick={begin}>
                begin anew as it is measured
              </button>
            </p>
          )}
          {result && !failing && !ticket.trim() && !trigger && (
            <Keep
              version={version}
              made={{
                kind: version.kind ?? "incident",
                fields: "fields" in setting ? (setting.fields ?? {}) : {},
                inputs: setting.inputs,
                answers: answers ?? [],
                expected: stage.ended ?? stage.stalled ?? "",
                by: version.owner,
                start: stage.record[0]?.at ?? new Date().toISOString(),
              }}
            />
          )}
          <ol aria-label="What would be recorded" className="border-t border-hairline">
            {stage.record.map((e) => {
              const told = story(e, names);
              return (
                <li key={e.seq} className="border-b border-hairline py-1 text-sm">
                  <span className="mr-2 font-mono text-xs text-ink-2">
                    {new Date(e.at).toLocaleString(undefined, {
                      weekday: "short",
                      hour: "2-digit",
                      minute: "2-digit",
                    })}
                  </span>
                  {told.parts.map((p, i) =>
                    // biome-ignore lint/suspicious/noArrayIndexKey: parts of one sentence never move
                    typeof p === "string" ? p : <strong key={i}>{p.strong}</strong>,
                  )}
                  {told.quote && <span className="block whitespace-pre-wrap text-ink-2">“{told.quote}”</span>}
                </li>
              );
            })}
          </ol>
        </>
      )}
      {view === "explore" && cannotBegin && (
        <p className="text-soon">
          It begins with {missing.length > 0 ? missing.map((f) => `“${f.label}”`).join(", ") : "a signal"}: say what
          under <em>Play</em> first.
        </p>
      )}
      {view === "explore" && !cannotBegin && (
        <ExploredView
          explored={found}
          outdated={explore.data !== undefined && found === undefined}
          onAgain={() => explore.mutate()}
          onDraw={(e) => {
            const way = e && drawn(e);
            onProgress(way?.path ?? [], way?.here ?? [], way?.ways ?? []);
          }}
          pending={explore.isPending}
          error={explore.error}
          version={version}
          onSelect={onSelect}
          onPlay={(list, without) => {
            setAnswers(list);
            setFailing(without);
            setToTheEnd(false);
            setView("play");
          }}
        />
      )}
      {view === "replay" && (
        <>
          {replay.isPending && <p className="text-ink-2">Replaying the last runs…</p>}
          {replay.isError && <Trouble error={replay.error} onRetry={() => replay.mutate()} />}
          {replay.data?.runs.length === 0 && <p className="text-ink-2">No run of this workflow has finished yet.</p>}
          <ul>
            {replay.data?.runs.map((r) => (
              <li key={r.run} className="border-b border-hairline py-1.5 text-sm">
                <strong>{r.run}</strong>{" "}
                {r.differences.length === 0 ? (
                  <span className="text-well">the same: {r.after}</span>
                ) : (
                  <ul className="text-soon">
                    {r.differences.map((d) => (
                      <li key={d}>{d}</li>
                    ))}
                  </ul>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {view === "kept" && <Kept version={version} />}
    </div>
  );
}

function ExploredView({
  explored,
  outdated,
  onAgain,
  onDraw,
  pending,
  error,
  version,
  onSelect,
  onPlay,
}: {
  explored?: Explored;
  /** Whether the route was changed since. */
  outdated: boolean;
  onAgain: () => void;
  /** Draws the way of an ending on the route; undefined draws none. */
  onDraw: (ending: Ending | undefined) => void;
  pending: boolean;
  error: unknown;
  version: Version;
  onSelect: (step: string) => void;
  onPlay: (answers: Answer[], failing?: string) => void;
}) {
  if (pending) return <p className="text-ink-2">Trying all ways…</p>;
  if (error) return <Trouble error={error} />;
  if (outdated)
    return (
      <p className="text-ink-2">
        The route was changed since.{" "}
        <button type="button" className="link" onClick={onAgain}>
          Explore it again
        </button>
      </p>
    );
  if (!explored) return null;
  const name = (id: string) => stepOf(version, id)?.name ?? id;
  return (
    <>
      <p className="text-sm text-ink-2">
        {explored.endings.length} {explored.endings.length === 1 ? "ending" : "different endings"}
        {explored.bounded && "; a bound was reached, there may be more"}. The route shows where each is; point at one to
        see its way.
      </p>
      <ul>
        {explored.endings.map((e) => (
          <li
            key={`${e.stalls}${e.result}`}
            className="border-b border-hairline py-1.5 text-sm hover:bg-raised"
            onMouseEnter={() => onDraw(e)}
            onMouseLeave={() => onDraw(undefined)}
            onFocus={() => onDraw(e)}
            onBlur={() => onDraw(undefined)}
          >
            <strong className={e.stalls ? "text-late" : ""}>
              {e.stalls && "stalls: "}
              {e.result}
            </strong>
            <span className="block text-ink-2">
              {waysWords(e)} · {e.failing && `if “${name(e.failing)}” does not hold, `}
              {e.answers.map((a) => `${name(a.step)}: ${answerWords(a)}`).join(", ") || "by itself"}
            </span>
            <button type="button" className="link" onClick={() => onPlay(e.answers, e.failing)}>
              play it on the route
            </button>
          </li>
        ))}
      </ul>
      {explored.neverReached.length > 0 && (
        <p className="text-sm">
          Never reached with these values:{" "}
          {explored.neverReached.map((id) => (
            <button key={id} type="button" className="link mr-1.5" onClick={() => onSelect(id)}>
              {name(id)}
            </button>
          ))}
        </p>
      )}
    </>
  );
}

function useKept(key: string) {
  return useQuery({
    queryKey: ["cases", key],
    queryFn: () => api.get<KeptCases>(`/api/workflows/${key}/cases`),
  });
}

/** Keeps a rehearsal: publishing plays it again and fails when it ends otherwise. */
function Keep({ version, made }: { version: Version; made: Omit<KeptCase, "name"> }) {
  const [name, setName] = useState("");
  const kept = useKept(version.key);
  const queries = useQueryClient();
  const keep = useMutation({
    mutationFn: () =>
      api.put(`/api/workflows/${version.key}/cases`, {
        cases: [...(kept.data?.cases ?? []).filter((c) => c.name !== name.trim()), { ...made, name: name.trim() }],
      }),
    onSuccess: () => {
      setName("");
      queries.invalidateQueries({ queryKey: ["cases", version.key] });
    },
  });
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate();
      }}
    >
      <div className="min-w-0 flex-1">
        <Input label="Keep it as" value={name} onChange={(e) => setName(e.target.value)} required />
      </div>
      <Button type="submit" disabled={!name.trim() || keep.isPending}>
        Keep
      </Button>
      {keep.isError && <Trouble error={keep.error} />}
    </form>
  );
}

function Kept({ version }: { version: Version }) {
  const kept = useKept(version.key);
  const queries = useQueryClient();
  const drop = useMutation({
    mutationFn: (name: string) =>
      api.put(`/api/workflows/${version.key}/cases`, {
        cases: (kept.data?.cases ?? []).filter((c) => c.name !== name),
      }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["cases", version.key] }),
  });
  const verdicts = new Map(kept.data?.verdicts.map((v) => [v.name, v]));
  if (kept.data?.cases.length === 0)
    return <p className="text-sm text-ink-2">None yet. Play one to its end and keep it: publishing plays it again.</p>;
  return (
    <ul>
      {kept.data?.cases.map((c) => {
        const verdict = verdicts.get(c.name);
        return (
          <li key={c.name} className="border-b border-hairline py-1.5 text-sm">
            <strong>{c.name}</strong>{" "}
            {verdict?.problem ? (
              <span className="text-late">{verdict.problem}</span>
            ) : (
              <span className="text-well">ends with “{valueWords(c.expected)}”</span>
            )}{" "}
            <button type="button" className="link" onClick={() => drop.mutate(c.name)}>
              drop it
            </button>
          </li>
        );
      })}
    </ul>
  );
}
