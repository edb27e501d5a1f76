import { applyPatches, enablePatches, type Patch, produceWithPatches } from "immer";
import { create } from "zustand";
import { api, ProblemError } from "../../api/client";
import type { Finding, Problem, Version, Workflow } from "../../api/types";

enablePatches();

interface Change {
  redo: Patch[];
  undo: Patch[];
}

export type Saving =
  | { is: "saved" }
  | { is: "unsaved" }
  | { is: "saving" }
  | { is: "conflict"; problem: Problem }
  | { is: "failed"; problem: Problem };

interface State {
  version: Version | undefined;
  /** What the server had when my changes began: what two people's changes are compared with. */
  base: Version | undefined;
  revision: number;
  findings: Finding[];
  selected: string | undefined;
  past: Change[];
  future: Change[];
  saving: Saving;
  /** Begins editing what the server has, with what was typed and not yet saved on top. */
  open: (workflow: Workflow) => void;
  select: (id: string | undefined) => void;
  edit: (change: (draft: Version) => void) => void;
  undo: () => void;
  redo: () => void;
  save: () => Promise<void>;
  /** After a conflict: puts mine over theirs. */
  overwrite: (revision: number) => Promise<void>;
}

/** What was typed here was never saved, and the draft has changed since. */
const MEANWHILE: Problem = {
  type: "urn:dastur:problem:conflict",
  title: "It has changed meanwhile",
  status: 409,
  detail: "The draft was changed while yours was not saved.",
};

const DELAY = 500;
const MOST_UNDO = 500;
let timer: ReturnType<typeof setTimeout> | undefined;
const storeKey = (key: string) => `dastur-draft-${key}`;

/** The draft being edited. Every change can be undone, saves itself, and survives a lost connection or a closed tab. */
export const useDesigner = create<State>((set, get) => {
  /** Kept after the frame that shows the change, or before the tab goes, whichever comes first. */
  let unkept: ReturnType<typeof setTimeout> | undefined;
  const keep = () => {
    clearTimeout(unkept);
    unkept = undefined;
    const { version, base, revision, saving } = get();
    if (version && saving.is !== "saved")
      localStorage.setItem(storeKey(version.key), JSON.stringify({ revision, base, version }));
  };
  if (typeof window !== "undefined") {
    window.addEventListener("pagehide", () => unkept !== undefined && keep());
    document.addEventListener("visibilitychange", () => unkept !== undefined && keep());
  }
  /** Workflows that are being saved. */
  const underWay = new Set<string>();
  /** What was saved after another workflow was opened: what is kept of it in the browser now begins from there. */
  const settled = (key: string, saved: Version, revision: number) => {
    const kept = localStorage.getItem(storeKey(key));
    if (!kept) return;
    const unsaved = JSON.parse(kept) as { version: Version };
    if (JSON.stringify(unsaved.version) === JSON.stringify(saved)) localStorage.removeItem(storeKey(key));
    else localStorage.setItem(storeKey(key), JSON.stringify({ ...unsaved, base: saved, revision }));
  };
  const changed = (version: Version, rest: Partial<State>) => {
    unkept ??= setTimeout(keep, 50);
    set({ version, saving: get().saving.is === "conflict" ? get().saving : { is: "unsaved" }, ...rest });
    clearTimeout(timer);
    if (get().saving.is !== "conflict") timer = setTimeout(() => get().save(), DELAY);
  };
  return {
    version: undefined,
    base: undefined,
    revision: 0,
    findings: [],
    selected: undefined,
    past: [],
    future: [],
    saving: { is: "saved" },

    open: (workflow) => {
      if (unkept !== undefined) keep();
      clearTimeout(timer);
      const base = workflow.draft ?? workflow.live;
      const kept = localStorage.getItem(storeKey(workflow.key));
      const unsaved = kept ? (JSON.parse(kept) as { revision: number; base?: Version; version: Version }) : undefined;
      const restore = workflow.mayDesign ? unsaved?.version : undefined;
      const outdated = restore !== undefined && unsaved?.revision !== workflow.draftRevision;
      set({
        version: restore ?? base,
        base: outdated ? unsaved?.base : base,
        revision: outdated ? (unsaved?.revision ?? 0) : workflow.draftRevision,
        findings: workflow.findings,
        selected: get().version?.key === workflow.key ? get().selected : base?.body.steps[0]?.id,
        past: [],
        future: [],
        saving: outdated ? { is: "conflict", problem: MEANWHILE } : { is: "saved" },
      });
      if (restore && !outdated && JSON.stringify(restore) !== JSON.stringify(base)) changed(restore, {});
    },

    select: (id) => set({ selected: id }),

    edit: (change) => {
      const { version, past } = get();
      if (!version) return;
      const [next, redo, undo] = produceWithPatches(version, (draft: Version) => change(draft));
      if (redo.length === 0) return;
      changed(next, { past: [...past.slice(-MOST_UNDO), { redo, undo }], future: [] });
    },

    undo: () => {
      const { version, past, future } = get();
      const last = past.at(-1);
      if (version && last)
        changed(applyPatches(version, last.undo), { past: past.slice(0, -1), future: [last, ...future] });
    },

    redo: () => {
      const { version, past, future } = get();
      const next = future[0];
      if (version && next)
        changed(applyPatches(version, next.redo), { past: [...past, next], future: future.slice(1) });
    },

    save: async () => {
      clearTimeout(timer);
      const { version, revision, saving } = get();
      // One at a time for each workflow: a second one would still name the revision that the first is about to replace.
      if (!version || saving.is !== "unsaved" || underWay.has(version.key)) return;
      const { key } = version;
      underWay.add(key);
      set({ saving: { is: "saving" } });
      try {
        const saved = await api.put<{ revision: number; findings: Finding[] }>(`/api/workflows/${key}/draft`, {
          version,
          revision,
        });
        underWay.delete(key);
        if (get().version?.key !== key) return settled(key, version, saved.revision);
        const again = get().version !== version;
        set({
          base: version,
          revision: saved.revision,
          findings: saved.findings,
          saving: again ? { is: "unsaved" } : { is: "saved" },
        });
        if (again) await get().save();
        else localStorage.removeItem(storeKey(key));
      } catch (e) {
        underWay.delete(key);
        // Another workflow is open now; this one's changes are kept in the browser until it is opened again.
        if (get().version?.key !== key) return;
        const problem =
          e instanceof ProblemError
            ? e.problem
            : { type: "", title: "Not saved", status: 0, detail: "It is kept here and tried again." };
        set({ saving: { is: problem.status === 409 ? "conflict" : "failed", problem } });
        if (problem.status === 0 || problem.status >= 500) {
          timer = setTimeout(() => {
            if (get().version?.key !== key) return;
            set({ saving: { is: "unsaved" } });
            get().save();
          }, 3000);
        }
      }
    },

    overwrite: async (revision) => {
      set({ revision, saving: { is: "unsaved" } });
      await get().save();
    },
  };
});
