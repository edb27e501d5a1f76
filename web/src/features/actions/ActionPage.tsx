import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api, ProblemError } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Action, ActionChecked, ActionNumber, ActionUser, ActionView, Automation, Finding } from "../../api/types";
import { Button, Chip, Input, Loading, PageHead, Trouble } from "../../ui/kit";
import { administers, designs, useSession } from "../signin/session";
import { ActionForm } from "./ActionForm";
import { ByHand } from "./ByHand";
import { figuresWords, numberWords } from "./figures";
import { Terms, useTerms } from "./Terms";
import { TryPane } from "./TryPane";
import { Versions } from "./Versions";

/** An action: what it is, what is wrong with it, who uses it and how it went; tried and changed here (M1 to M3). */
export function ActionPage() {
  const { key } = useParams({ from: "/actions/$key" });
  return <ActionOf key={key} action={key} />;
}

export function ActionOf({ action: key }: { action: string }) {
  const view = useQuery({ queryKey: ["action", key], queryFn: () => api.get<ActionView>(`/api/actions/${key}`) });
  const all = useQuery({ queryKey: ["automation"], queryFn: () => api.get<Automation>("/api/automation") });
  // Asked for here, so that nothing on the page moves once it is known.
  const terms = useTerms(key);
  if (view.isPending || all.isPending || terms.isPending) return <Loading what="the action" />;
  if (view.isLoadingError || all.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={view.error ?? all.error}>
          <Link to="/automation" className="link">
            All actions
          </Link>
        </Trouble>
      </div>
    );
  if (!view.data || !all.data) return null;
  return <Known view={view.data} all={all.data} />;
}

/** What was typed and not saved, with the number it was typed on: somebody may save meanwhile. */
interface Typed {
  on: ActionNumber;
  action: Action;
}

const store = (key: string) => `dastur-action-${key}`;

/** It stays in this browser until it is saved or undone. */
function useTyped(key: string) {
  const [typed, setTyped] = useState<Typed | undefined>(() => {
    const text = sessionStorage.getItem(store(key));
    return text ? (JSON.parse(text) as Typed) : undefined;
  });
  const keep = (next: Typed | undefined) => {
    if (next) sessionStorage.setItem(store(key), JSON.stringify(next));
    else sessionStorage.removeItem(store(key));
    setTyped(next);
  };
  return [typed, keep] as const;
}

function Known({ view, all }: { view: ActionView; all: Automation }) {
  const { session } = useSession();
  const mayMake = designs(session);
  const terms = useTerms(view.action.key).data;
  const makes = mayMake && terms?.mayChange !== false;
  const names = useNames();
  const [typed, keep] = useTyped(view.action.key);
  const draft = typed?.action ?? view.action;
  const changed = JSON.stringify(draft) !== JSON.stringify(view.action);
  const change = (action: Action) => keep({ on: typed?.on ?? view.number, action });
  // What is put in whole is drawn anew: parts of the form hold rows of their own while they are typed.
  const [round, setRound] = useState(0);
  const undo = () => {
    keep(undefined);
    setRound(round + 1);
  };
  const take = (action: Action) => {
    change(action);
    setRound(round + 1);
  };
  const checked = useChecked(draft, changed, view.number);
  const findings = (changed ? checked.data?.findings : undefined) ?? view.findings;
  const [problem, setProblem] = useState<{ where?: string; detail: string }>();
  const at = (field: string) =>
    problem?.where === field
      ? problem.detail
      : findings.find((f) => f.field === field && f.severity === "blocks")?.message;
  return (
    <>
      <PageHead
        title={view.action.name}
        sub={
          <span className="flex flex-wrap gap-x-1.5">
            <span>version {numberWords(view.number)}</span>
            {view.action.withdrawn && <Chip tone="late">withdrawn</Chip>}
            {view.action.changesWorld ? <Chip tone="soon">changes the world</Chip> : <Chip>only reads</Chip>}
            <span>{figuresWords(view.figures)}</span>
          </span>
        }
      >
        <Link to="/automation" className="link self-center">
          All actions
        </Link>
      </PageHead>
      {view.action.withdrawn && (
        <p role="status" className="border-b border-hairline bg-here px-5 py-2">
          Nothing begins by it any more: {view.action.withdrawn} A mend, or “Let be used again” beside its version, puts
          it back in use.
        </p>
      )}
      {changed && makes && (
        <SaveBar
          view={view}
          draft={draft}
          on={typed?.on ?? view.number}
          checked={checked.data}
          onProblem={setProblem}
          onUndo={undo}
        />
      )}
      <div className="min-h-0 flex-1 overflow-auto lg:grid lg:grid-cols-[1fr_400px] lg:overflow-hidden">
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys */}
        <section tabIndex={0} aria-label="What it is" className="min-w-0 p-5 lg:overflow-auto">
          <fieldset disabled={!makes} className="flex max-w-3xl flex-col gap-3">
            <ActionForm
              key={round}
              draft={draft}
              set={(part) => {
                setProblem(undefined);
                change({ ...draft, ...part });
              }}
              connections={all.connections}
              secrets={administers(session) ? all.secrets : null}
              at={at}
            />
          </fieldset>
        </section>
        <div
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys
          tabIndex={0}
          className="flex min-w-0 flex-col gap-6 border-hairline p-5 max-lg:border-t lg:overflow-auto lg:border-l"
        >
          <Findings of={findings} />
          {mayMake && !makes && (
            <p role="status">
              Kept by {names.person(terms?.terms.keeper)}: ask them to change it, or an administrator. You can try it
              here.
            </p>
          )}
          {mayMake && <TryPane draft={draft} tries={view.tries} onChange={makes ? change : () => {}} />}
          <Terms action={view.action.key} name={view.action.name} may={mayMake} />
          <Users view={view} />
          <ByHand action={view.action.key} may={mayMake} />
          <Versions view={view} onTake={makes ? take : undefined} />
        </div>
      </div>
    </>
  );
}

/** What is wrong with what is typed now, a moment after it is typed. */
function useChecked(draft: Action, changed: boolean, number: ActionNumber) {
  const text = JSON.stringify(draft);
  const [still, setStill] = useState(text);
  useEffect(() => {
    const timer = window.setTimeout(() => setStill(text), 300);
    return () => window.clearTimeout(timer);
  }, [text]);
  return useQuery({
    // What a save would do follows from what is there as well.
    queryKey: ["action-checks", still, numberWords(number)],
    queryFn: () => api.post<ActionChecked>(`/api/actions/${draft.key}/checks`, JSON.parse(still)),
    enabled: changed && still === text,
    retry: false,
    placeholderData: (before) => before,
  });
}

/** What a save would do, and for whom; a mend that others get is said why. */
function SaveBar({
  view,
  draft,
  on,
  checked,
  onProblem,
  onUndo,
}: {
  view: ActionView;
  draft: Action;
  /** The number that was looked at while it was typed. */
  on: ActionNumber;
  checked?: ActionChecked;
  onProblem: (problem: { where?: string; detail: string } | undefined) => void;
  onUndo: () => void;
}) {
  const queries = useQueryClient();
  const [why, setWhy] = useState("");
  const saving = useMutation({
    mutationFn: () =>
      api.put<ActionView>(`/api/actions/${draft.key}`, {
        action: draft,
        on,
        why: why.trim() || undefined,
      }),
    onSuccess: async (saved) => {
      onProblem(undefined);
      queries.setQueryData(["action", draft.key], saved);
      onUndo();
      await Promise.all(["automation", "catalogue"].map((k) => queries.invalidateQueries({ queryKey: [k] })));
    },
    onError: (e) => onProblem(e instanceof ProblemError ? e.problem : undefined),
  });
  const users = checked?.users ?? [];
  const needsWhy = checked?.mends === true && users.length > 0;
  const blocked = checked?.findings.some((f) => f.severity === "blocks");
  const becomes = checked?.becomes;
  return (
    <div className="flex flex-wrap items-end gap-3 border-b border-hairline bg-here px-5 py-2">
      <p className="min-w-0 flex-1 self-center" role="status">
        {!checked
          ? "Looking at what this changes …"
          : !becomes
            ? "Nothing is changed."
            : checked.mends
              ? `This mends version ${view.number.version}: ${users.length === 0 ? "nobody uses it yet" : `${names(users)} ${users.length === 1 ? "gets" : "get"} it from the next step on`}. What is under way stays as it is.`
              : `This is version ${numberWords(becomes)}: it asks for, gives or may do something else. ${users.length === 0 ? "Nobody uses it yet." : `${names(users)} ${users.length === 1 ? "goes" : "go"} on as ${users.length === 1 ? "it is" : "they are"} until published anew.`}`}
      </p>
      {needsWhy && (
        <div className="w-72">
          <Input label="Why, for the journal" value={why} onChange={(e) => setWhy(e.target.value)} />
        </div>
      )}
      <Button onClick={onUndo}>Undo all</Button>
      <Button
        look="primary"
        disabled={!becomes || blocked || saving.isPending || (needsWhy && !why.trim())}
        onClick={() => saving.mutate()}
      >
        {becomes ? `Save as ${numberWords(becomes)}` : "Save"}
      </Button>
      {saving.isError && (
        <div className="w-full">
          <Trouble error={saving.error} />
        </div>
      )}
    </div>
  );
}

const names = (users: ActionUser[]) =>
  users.length > 3 ? `${users.length} workflows` : users.map((u) => `“${u.name}”`).join(", ");

function Findings({ of }: { of: Finding[] }) {
  if (of.length === 0) return null;
  return (
    <section aria-label="What is wrong with it">
      <h2 className="mb-1 font-bold">{of.some((f) => f.severity === "blocks") ? "Mend this first" : "Look at this"}</h2>
      <ul>
        {of.map((f) => (
          <li key={`${f.field} ${f.message}`} className="border-b border-hairline py-1.5 text-sm">
            <span className={f.severity === "blocks" ? "font-semibold text-late" : "text-soon"}>
              {placeWords(f.field)}
            </span>
            <br />
            {f.message}
          </li>
        ))}
      </ul>
    </section>
  );
}

const PLACES: Record<string, string> = {
  inputs: "Inputs",
  outputs: "Outputs",
  results: "Further results",
  timeLimit: "Time limit",
  repeat: "Repeating",
  "call.method": "Method",
  "call.path": "Path",
  "call.body": "Body",
  "call.poll": "A long job",
  "call.pages": "Pages",
};

const placeWords = (field: string | undefined) =>
  field?.startsWith("call.headers.")
    ? `Header ${field.slice("call.headers.".length)}`
    : field?.startsWith("limits.")
      ? `What “${field.slice("limits.".length)}” may be`
      : (PLACES[field ?? ""] ?? "The action");

function Users({ view }: { view: ActionView }) {
  const { users, watches, number } = view;
  return (
    <section aria-label="Who uses it">
      <h2 className="mb-1 font-bold">Who uses it</h2>
      {users.length === 0 && watches.length === 0 && (
        <p className="text-sm text-ink-2">No live workflow and no watch.</p>
      )}
      <ul>
        {users.map((u) => (
          <li key={u.workflow} className="border-b border-hairline py-1.5 text-sm">
            <Link to="/workflows/$key" params={{ key: u.workflow }} className="link">
              {u.name}
            </Link>{" "}
            {u.version < number.version ? (
              <span className="text-soon">
                with version {u.version}; publish it anew to use {number.version}
              </span>
            ) : (
              <span className="text-ink-2">with version {u.version}</span>
            )}
            <br />
            <span className="text-ink-2">{u.steps.join(", ")}</span>
          </li>
        ))}
        {watches.map((w) => (
          <li key={w} className="border-b border-hairline py-1.5 text-sm">
            {w} <span className="text-ink-2">watches by it, as it is now</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
