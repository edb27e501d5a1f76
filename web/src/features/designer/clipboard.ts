import type { Step, Version } from "../../api/types";
import { allSteps } from "../../route/ofVersion";

const KEPT = "dastur-copied-step";

/** A step with everything inside it, kept so that another workflow can use it. */
export function copyStep(step: Step): void {
  localStorage.setItem(KEPT, JSON.stringify(step));
}

export function copiedStep(): Step | undefined {
  const kept = localStorage.getItem(KEPT);
  return kept ? (JSON.parse(kept) as Step) : undefined;
}

/**
 * A copied step as it can stand in a version: ids that are taken there get new ones, ways and expressions inside follow
 * them, and its own ways are left open, since they led to steps that are not here.
 */
export function pasted(step: Step, version: Version): Step {
  const taken = new Set(allSteps(version.body.steps).map((s) => s.id));
  const ids = new Map<string, string>();
  for (const { id } of allSteps([step])) {
    let free = id;
    for (let n = 2; taken.has(free); n++) free = `${id.slice(0, 36)}${n}`;
    taken.add(free);
    ids.set(id, free);
  }
  const fresh = renamed(step, ids) as Step;
  return fresh.kind === "end" ? fresh : { ...fresh, ways: {} };
}

function renamed(value: unknown, ids: Map<string, string>, key = ""): unknown {
  if (typeof value === "string") {
    if (STEP_KEYS.has(key)) return ids.get(value) ?? value;
    return value.replace(/\bsteps\.([A-Za-z]\w*)/g, (all, id: string) => (ids.has(id) ? `steps.${ids.get(id)}` : all));
  }
  if (Array.isArray(value)) return value.map((v) => renamed(v, ids, key));
  if (value && typeof value === "object") {
    return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, renamed(v, ids, key === "ways" ? "ways" : k)]));
  }
  return value;
}

/** Where a step is named by its id; in a check's rules, "capture" and "after" name steps too. */
const STEP_KEYS = new Set(["id", "ways", "notDoersOf", "capture", "after"]);
