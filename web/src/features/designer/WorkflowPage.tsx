import { Link, useParams } from "@tanstack/react-router";
import { lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import { useCatalogue, useNames, useWorkflow } from "../../api/hooks";
import type { Finding, Step, Version, Workflow } from "../../api/types";
import { layoutRoute } from "../../route/layout";
import { allSteps, exitsOf, expectedOf, linesOf, routeSteps } from "../../route/ofVersion";
import { isTyping, useKeys } from "../../ui/keys";
import { Button, Chip, Empty, Loading, PageHead, Select, Trouble } from "../../ui/kit";
import { Together } from "../../ui/Together";
import { AnswersAt } from "./AnswersAt";
import { CompareDialog, type Marks } from "./CompareDialog";
import { Composer } from "./Composer";
import { Conflict } from "./Conflict";
import { copiedStep, copyStep, pasted } from "./clipboard";
import { DetailsDialog } from "./DetailsDialog";
import { DocumentDialog } from "./DocumentDialog";
import { Inspector } from "./Inspector";
import {
  addAfter,
  addInside,
  detourExit,
  type Kind,
  leadingTo,
  levelOf,
  moveStep,
  newStep,
  relead,
  removeStep,
  replaceStep,
  stepOf,
} from "./model";
import { PublishDialog } from "./PublishDialog";
import { RehearsalPanel } from "./RehearsalPanel";
import { RouteKeys } from "./RouteKeys";
import { RouteView } from "./RouteView";
import { type Saving, useDesigner } from "./store";
import { TriggersDialog } from "./TriggersDialog";
import { firedWords, triggerWords } from "./triggerWords";
import { VersionsDialog } from "./VersionsDialog";

// The editor of texts is large, and most changes are made on the route.
const TextPane = lazy(() => import("./TextPane").then((m) => ({ default: m.TextPane })));

/** Designing a workflow on its route. */
export function WorkflowPage() {
  const { key } = useParams({ from: "/workflows/$key" });
  const workflow = useWorkflow(key);
  const open = useDesigner((s) => s.open);
  const opened = useRef<string>(undefined);
  useEffect(() => {
    // Opened once; later answers of the server must not undo what is being typed.
    if (workflow.data && opened.current !== key) {
      opened.current = key;
      open(workflow.data);
      document.title = `${(workflow.data.draft ?? workflow.data.live)?.name} · Dastur`;
    }
  }, [workflow.data, key, open]);
  const version = useDesigner((s) => s.version);
  // Exits of automated steps are their actions': without them rows would be drawn twice.
  const actions = useCatalogue();
  if (workflow.isPending || (actions.isPending && actions.failureCount === 0)) return <Loading what="the workflow" />;
  if (workflow.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={workflow.error} onRetry={() => workflow.refetch()}>
          <Link to="/workflows" className="link">
            All workflows
          </Link>
        </Trouble>
      </div>
    );
  if (version === undefined || version.key !== key) return <Loading what="the workflow" />;
  return <Designer workflow={workflow.data} version={version} />;
}

function Designer({ workflow, version }: { workflow: Workflow; version: Version }) {
  const { selected, select, edit, undo, redo, findings, saving, past, future } = useDesigner();
  const names = useNames();
  const catalogue = useCatalogue();
  const actions = catalogue.data?.actions ?? [];
  const [composing, setComposing] = useState<{
    after: string | undefined;
    exit: string | undefined;
    /** The line of the bracket that the step goes into. */
    line?: number;
  }>();
  const [folded, setFolded] = useState<Set<string>>(new Set());
  const [dialog, setDialog] = useState<
    "triggers" | "publish" | "versions" | "keys" | "details" | "document" | "compare"
  >();
  const [marks, setMarks] = useState<Marks>();
  /** Where all ways end, while somebody explores them. */
  const [ends, setEnds] = useState<Map<string, string>>();
  const [dense, setDense] = useState(false);
  const [copied, setCopied] = useState<string>();
  const [beside, setBeside] = useState<"rehearsal" | "text">();
  const rehearsing = beside === "rehearsal";
  const setRehearsing = (on: boolean) => setBeside(on ? "rehearsal" : undefined);
  const [come, setCome] = useState<{ path: Set<string>; waiting: Set<string>; ways: Set<string> }>();
  const [fault, setFault] = useState<Finding>();
  const onProgress = useCallback(
    (path: string[], waiting: string[], ways: string[]) =>
      setCome(path.length ? { path: new Set(path), waiting: new Set(waiting), ways: new Set(ways) } : undefined),
    [],
  );
  const may = workflow.mayDesign;
  const step = stepOf(version, selected);
  // A fault that was mended is drawn no longer.
  const faultShown = fault && findings.some((f) => f.code === fault.code && f.step === fault.step) ? fault : undefined;
  const rows = layoutRoute(routeSteps(version, actions, folded)).rows.filter((r) => r.lane === undefined);
  const differs = workflow.draft !== undefined || past.length > 0 || saving.is !== "saved";

  const compose = (detour: boolean) => {
    if (!may) return;
    const from = step ?? stepOf(version, rows.at(-1)?.id);
    if (!from) return setComposing({ after: undefined, exit: undefined });
    if (from.kind === "end") {
      // Nothing comes after an end: the step goes before it, on the way that leads there.
      const into = leadingTo(version, from.id, actions);
      setComposing({ after: into?.step, exit: into?.exit });
      return;
    }
    setComposing({
      after: from.id,
      exit: (detour ? detourExit(from, actions) : expectedOf(from, actions)) ?? undefined,
    });
  };
  /** Puts the step first into a line of the selected bracket, or of the one that the selected step stands in. */
  const composeInside = () => {
    if (!may || !step || linesOf(step).length === 0) return;
    setFolded((f) => new Set([...f].filter((id) => id !== step.id)));
    setComposing({ after: step.id, exit: undefined, line: 0 });
  };
  const put = (made: Step) => {
    // A copy: what was made of a sentence is remembered for the next time it is typed, and is written into here.
    const fresh = structuredClone(made);
    edit((d) =>
      composing?.line !== undefined && composing.after
        ? addInside(d, composing.after, composing.line, fresh, actions)
        : addAfter(d, composing?.after, composing?.exit, fresh, actions),
    );
    setComposing(undefined);
    select(fresh.id);
  };
  /** Puts a copied step after the selected one, wherever it was copied. */
  const paste = (kept: Step) => {
    const fresh = pasted(kept, version);
    const after = step && step.kind !== "end" ? step : undefined;
    edit((d) => addAfter(d, after?.id, (after && expectedOf(after, actions)) ?? undefined, fresh, actions));
    select(fresh.id);
  };
  const add = (kind: Kind, name: string) => put(newStep(kind, name, version, actions));
  const remove = () => {
    if (!step || !may) return;
    const at = rows.findIndex((r) => r.id === step.id);
    edit((d) => removeStep(d, step.id, actions));
    select((rows[at + 1] ?? rows[at - 1])?.id);
  };
  const newEnd = (exit: string) => {
    if (!step) return;
    const end = newStep("end", `${exit.charAt(0).toUpperCase()}${exit.slice(1)}`, version, actions);
    edit((d) => {
      levelOf(d, step.id).push(end);
      relead(d, step.id, exit, end.id);
    });
  };
  const move = (by: number) => {
    const at = rows.findIndex((r) => r.id === selected);
    const next = rows[Math.min(rows.length - 1, Math.max(0, at + by))]?.id;
    select(next);
    document.querySelector<HTMLElement>(`[data-step="${next}"]`)?.focus();
  };

  const fold = (id: string) =>
    setFolded((f) => (f.has(id) ? new Set([...f].filter((x) => x !== id)) : new Set([...f, id])));

  useKeys({
    j: () => move(1),
    k: () => move(-1),
    arrowdown: () => move(1),
    arrowup: () => move(-1),
    enter: (e) => compose(e.shiftKey),
    delete: remove,
    i: composeInside,
    f: () => selected && fold(selected),
    t: () => setBeside(beside === "text" ? undefined : "text"),
    d: () => setDense(!dense),
    r: () => may && setRehearsing(!rehearsing),
    "?": () => setDialog("keys"),
  });
  useEffect(() => {
    const listener = (e: KeyboardEvent) => {
      if (e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown") && !isTyping(e.target) && selected) {
        e.preventDefault();
        edit((d) => moveStep(d, selected, e.key === "ArrowDown", actions));
        return;
      }
      const pressed = e.key.toLowerCase();
      const chord = (e.metaKey || e.ctrlKey) && !isTyping(e.target) && !document.querySelector('[role="dialog"]');
      // Text that somebody has marked is what they mean to copy.
      if (chord && pressed === "c" && step && !window.getSelection()?.toString()) {
        copyStep(step);
        setCopied(step.name);
        return;
      }
      const kept = chord && pressed === "v" && may ? copiedStep() : undefined;
      if (kept) {
        e.preventDefault();
        paste(kept);
        return;
      }
      if (!(e.metaKey || e.ctrlKey) || pressed !== "z" || isTyping(e.target)) return;
      e.preventDefault();
      if (e.shiftKey) redo();
      else undo();
    };
    window.addEventListener("keydown", listener);
    return () => window.removeEventListener("keydown", listener);
  });

  const blocking = findings.filter((f) => f.severity === "blocks");
  const composingStep = stepOf(version, composing?.after);
  return (
    <>
      <PageHead
        title={
          <span className="flex flex-wrap items-center gap-2.5">
            {version.name}
            <Chip tone={workflow.retired ? "plain" : differs && workflow.liveVersion ? "soon" : "plain"}>
              {workflow.retired
                ? "retired"
                : workflow.liveVersion
                  ? differs
                    ? `draft · ${workflow.liveVersion} is live`
                    : `version ${workflow.liveVersion} is live`
                  : "draft, never published"}
            </Chip>
          </span>
        }
        sub={
          <span>
            Starts{" "}
            <button
              type="button"
              className="link max-w-[52ch] truncate align-bottom font-semibold text-ink"
              title={workflow.triggers[0] && triggerWords(workflow.triggers[0].trigger, names)}
              onClick={() => setDialog("triggers")}
            >
              {workflow.triggers[0] ? triggerWords(workflow.triggers[0].trigger, names) : "by nothing yet"}
            </button>
            {workflow.triggers.length > 1 && ` and ${workflow.triggers.length - 1} more`}
            {workflow.triggers.length > 0 && ` · ${firedWords(workflow.triggers.reduce((n, t) => n + t.firings, 0))}`} ·
            owner <strong className="text-ink">{names.person(version.owner)}</strong>
          </span>
        }
      >
        {may && <SavingNote saving={saving} onReload={() => window.location.reload()} />}
        {may && (
          <>
            <Button disabled={past.length === 0} onClick={undo} aria-label="Undo" title="Ctrl Z">
              ↶
            </Button>
            <Button disabled={future.length === 0} onClick={redo} aria-label="Redo" title="Ctrl Shift Z">
              ↷
            </Button>
          </>
        )}
        {may && <Button onClick={() => setDialog("details")}>About</Button>}
        <Button aria-pressed={beside === "text"} onClick={() => setBeside(beside === "text" ? undefined : "text")}>
          Text
        </Button>
        {may && (
          <Button aria-pressed={rehearsing} onClick={() => setRehearsing(!rehearsing)}>
            Rehearse
          </Button>
        )}
        <Button onClick={() => setDialog("versions")}>Versions</Button>
        {may && (
          <Button look="primary" disabled={!differs} onClick={() => setDialog("publish")}>
            Publish…
          </Button>
        )}
      </PageHead>
      {saving.is === "conflict" && <Conflict problem={saving.problem} workflow={workflow} />}
      <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
        <div className="min-h-0 min-w-0 flex-1 overflow-auto bg-sheet">
          {version.body.steps.length === 0 && !composing ? (
            <Empty title="An empty route">
              {may ? (
                <span className="mt-2 flex justify-center gap-2">
                  <Button look="primary" onClick={() => compose(false)}>
                    Add the first step
                  </Button>
                  <Button onClick={() => setDialog("document")}>Begin with a document…</Button>
                  <Button onClick={() => setBeside("text")}>Begin with a file…</Button>
                </span>
              ) : (
                "Its owner has not begun yet."
              )}
            </Empty>
          ) : (
            <RouteView
              version={version}
              findings={findings}
              selected={selected}
              onSelect={select}
              folded={folded}
              onFold={fold}
              dense={dense}
              marks={ends ?? marks}
              progress={
                faultShown
                  ? (id) =>
                      id === faultShown.step ? "here" : faultShown.path?.some((p) => p.step === id) ? "passed" : "ahead"
                  : come && ((id) => (come.waiting.has(id) ? "here" : come.path.has(id) ? "passed" : "ahead"))
              }
              taken={faultShown ? new Set(faultShown.path?.map((p) => `${p.step} ${p.exit}`)) : come?.ways}
              slots={[
                ...(rehearsing && come
                  ? [...come.waiting].map((id) => ({ after: id, node: <AnswersAt version={version} step={id} /> }))
                  : []),
                ...(composing
                  ? [
                      {
                        after: composing.after,
                        node: (
                          <Composer
                            version={version}
                            inside={
                              composing.line === undefined ? undefined : insideWords(composingStep, composing.line)
                            }
                            onMade={put}
                            exits={composingStep ? exitsOf(composingStep, actions) : []}
                            exit={composing.exit}
                            onExit={(exit) => setComposing({ ...composing, exit })}
                            onAdd={add}
                            onClose={() => setComposing(undefined)}
                          />
                        ),
                      },
                    ]
                  : []),
              ]}
            />
          )}
        </div>
        {beside === "text" && (
          <aside
            aria-label="Workflow as text"
            className="shrink-0 border-hairline bg-sheet max-lg:h-[50vh] max-lg:border-t lg:w-[46%] lg:border-l"
          >
            <Suspense fallback={<Loading what="the text" />}>
              <TextPane
                version={version}
                findings={findings}
                selected={selected}
                readOnly={!may}
                onSelect={select}
                onApply={(v) =>
                  edit((d) => {
                    for (const k of Object.keys(d)) if (!(k in v)) delete (d as unknown as Record<string, unknown>)[k];
                    Object.assign(d, v);
                  })
                }
                onClose={() => setBeside(undefined)}
              />
            </Suspense>
          </aside>
        )}
        <aside
          aria-label="Step"
          hidden={beside === "text"}
          className="shrink-0 overflow-auto border-hairline p-4 max-lg:max-h-[45vh] max-lg:border-t lg:w-[330px] lg:border-l"
        >
          <Together>
            {rehearsing ? (
              <RehearsalPanel
                version={version}
                triggers={workflow.triggers.map((t) => t.trigger)}
                onProgress={onProgress}
                onMarks={setEnds}
                onSelect={select}
                onClose={() => setRehearsing(false)}
              />
            ) : step ? (
              <Inspector
                key={step.id}
                step={step}
                version={version}
                findings={findings.filter((f) => f.step === step.id)}
                fault={faultShown}
                onFault={setFault}
                readOnly={!may}
                onChange={(s) => edit((d) => replaceStep(d, step.id, s))}
                onRelead={(exit, to) => edit((d) => relead(d, step.id, exit, to))}
                onNewEnd={newEnd}
                onRepair={(f) => (f.repair === "end here" && f.exit ? newEnd(f.exit) : remove())}
                onDelete={remove}
              />
            ) : (
              <p className="text-ink-2">Choose a step to see and change it.</p>
            )}
          </Together>
        </aside>
      </div>
      <footer className="flex shrink-0 flex-wrap items-center justify-between gap-x-6 border-t border-hairline bg-raised px-5 py-2 text-sm">
        <FindingsLine findings={findings} onSelect={select} />
        {rows.length > 12 && <JumpList version={version} rows={rows} onJump={select} />}
        {may && (
          <span className="flex items-center gap-3 text-xs text-ink-2">
            {copied && (
              <span role="status">
                “{copied}” is copied: <kbd className="font-mono">Ctrl V</kbd> puts it into any workflow
              </span>
            )}
            <button type="button" className="link" onClick={() => compose(false)}>
              <kbd className="font-mono">↵</kbd> {step?.kind === "end" ? "step before" : "step after"}
            </button>
            <button
              type="button"
              className="link"
              onClick={() => compose(true)}
              disabled={!step || step.kind === "end"}
            >
              <kbd className="font-mono">⇧↵</kbd> detour
            </button>
            {step && linesOf(step).length > 0 && (
              <button type="button" className="link" onClick={composeInside}>
                <kbd className="font-mono">i</kbd> step inside
              </button>
            )}
            {marks && (
              <button type="button" className="link" onClick={() => setMarks(undefined)}>
                hide the comparison
              </button>
            )}
            <button type="button" className="link" aria-pressed={dense} onClick={() => setDense(!dense)}>
              <kbd className="font-mono">d</kbd> {dense ? "full rows" : "one line a step"}
            </button>
            <button type="button" className="link" onClick={() => setDialog("document")}>
              from a document
            </button>
            <button type="button" className="link" onClick={() => setDialog("keys")}>
              <kbd className="font-mono">?</kbd> keys
            </button>
          </span>
        )}
      </footer>
      {dialog === "triggers" && <TriggersDialog workflow={workflow} onClose={() => setDialog(undefined)} />}
      {dialog === "details" && <DetailsDialog version={version} onClose={() => setDialog(undefined)} />}
      {dialog === "versions" && (
        <VersionsDialog
          workflow={workflow}
          onCompare={() => setDialog("compare")}
          onClose={() => setDialog(undefined)}
        />
      )}
      {dialog === "compare" && (
        <CompareDialog
          workflow={workflow}
          current={version}
          onMarks={setMarks}
          onSelect={select}
          onClose={() => setDialog(undefined)}
        />
      )}
      {dialog === "publish" && (
        <PublishDialog
          workflow={workflow}
          blocking={blocking}
          warnings={findings.filter((f) => f.severity === "warns")}
          onClose={() => setDialog(undefined)}
          onSelect={select}
        />
      )}
      {dialog === "document" && (
        <DocumentDialog
          version={version}
          onAdd={(steps, notes) => {
            edit((d) => {
              d.body.steps.push(...steps);
              Object.assign(d.notes, notes);
            });
            select(steps[0]?.id);
            setDialog(undefined);
          }}
          onClose={() => setDialog(undefined)}
        />
      )}
      {dialog === "keys" && <RouteKeys onClose={() => setDialog(undefined)} />}
    </>
  );
}

/** Goes to any step of a long route by its number and name. */
function JumpList({
  version,
  rows,
  onJump,
}: {
  version: Version;
  rows: { id: string; number: number }[];
  onJump: (id: string) => void;
}) {
  const names = new Map(allSteps(version.body.steps).map((s) => [s.id, s.name]));
  return (
    <Select
      label="Jump to a step"
      hideLabel
      className="w-44"
      value=""
      placeholder="jump to…"
      options={rows.map((r) => ({ value: r.id, label: `${r.number} ${names.get(r.id)}` }))}
      onChange={(id) => {
        onJump(id);
        document.querySelector(`[data-step="${id}"]`)?.scrollIntoView({ block: "center" });
      }}
    />
  );
}

/** Which line of a bracket a step goes into, in words. */
function insideWords(step: Step | undefined, line: number): string {
  const name = step ? linesOf(step)[line]?.name : undefined;
  return name ? `“${name}” of “${step?.name}”` : `“${step?.name ?? ""}”`;
}

function SavingNote({ saving, onReload }: { saving: Saving; onReload: () => void }) {
  const words: Record<Saving["is"], string> = {
    saved: "saved",
    unsaved: "…",
    saving: "saving…",
    conflict: "not saved",
    failed: "not saved",
  };
  return (
    <span
      role="status"
      className={`text-sm ${saving.is === "failed" || saving.is === "conflict" ? "font-semibold text-late" : "text-ink-2"}`}
      title={saving.is === "failed" ? saving.problem.detail : undefined}
    >
      {saving.is === "failed" ? saving.problem.detail : words[saving.is]}
      {saving.is === "failed" && saving.problem.status === 401 && (
        <button type="button" className="link ml-2" onClick={onReload}>
          sign in again
        </button>
      )}
    </span>
  );
}

function FindingsLine({ findings, onSelect }: { findings: Finding[]; onSelect: (id: string | undefined) => void }) {
  if (findings.length === 0) return <span className="text-well">✓ No findings: it can be published</span>;
  const blocks = findings.filter((f) => f.severity === "blocks").length;
  const first = findings[0];
  return (
    <span className="flex min-w-0 flex-1 gap-2">
      <strong className={`shrink-0 ${blocks ? "text-late" : "text-soon"}`}>
        {blocks > 0 && `${blocks} ${blocks === 1 ? "finding blocks" : "findings block"}`}
        {blocks > 0 && blocks < findings.length && ", "}
        {blocks < findings.length &&
          `${findings.length - blocks} ${findings.length - blocks === 1 ? "warning" : "warnings"}`}
      </strong>{" "}
      <button
        type="button"
        className="min-w-0 truncate hover:underline"
        onClick={() => first?.step && onSelect(first.step)}
      >
        {first?.message}
      </button>
    </span>
  );
}
