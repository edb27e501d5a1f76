/** The steps of a walk through pages, as they stand in an action's body (M12). */
export type WalkStep = Record<string, string>;

/** A kind of step: what stands before each of its values, as a sentence. */
export interface StepKind {
  /** The name of its first value, which no other kind has. */
  key: string;
  says: string;
  values: { name: string; before: string; label: string }[];
}

export const STEP_KINDS: StepKind[] = [
  { key: "open", says: "Open the page", values: [{ name: "open", before: "", label: "Path" }] },
  {
    key: "type",
    says: "Type",
    values: [
      { name: "type", before: "", label: "Text" },
      { name: "into", before: "into the field", label: "Field" },
    ],
  },
  { key: "secret", says: "Type the secret", values: [{ name: "secret", before: "into the field", label: "Field" }] },
  {
    key: "choose",
    says: "Choose",
    values: [
      { name: "choose", before: "", label: "Option" },
      { name: "in", before: "in the field", label: "Field" },
    ],
  },
  { key: "press", says: "Press or tick", values: [{ name: "press", before: "", label: "Name" }] },
  { key: "expect", says: "Expect to see", values: [{ name: "expect", before: "", label: "Text" }] },
  { key: "expectNot", says: "Expect not to see", values: [{ name: "expectNot", before: "", label: "Text" }] },
  { key: "picture", says: "Take a picture", values: [{ name: "picture", before: "called", label: "Name" }] },
  {
    key: "read",
    says: "Read",
    values: [
      { name: "read", before: "what stands beside", label: "Label" },
      { name: "as", before: "as", label: "Called" },
    ],
  },
];

/** The kind of a step; undefined where it is none. */
export function kindOfStep(step: WalkStep): StepKind | undefined {
  return STEP_KINDS.find((k) => k.key in step);
}

/** The steps of a body; undefined where they were written otherwise, and are to be changed as they stand. */
export function stepsOf(body: string | undefined): WalkStep[] | undefined {
  if (!body?.trim()) return [];
  try {
    const steps: unknown = JSON.parse(body);
    const fits = (s: unknown): s is WalkStep =>
      typeof s === "object" &&
      s !== null &&
      Object.values(s).every((v) => typeof v === "string") &&
      kindOfStep(s as WalkStep)?.values.length === Object.keys(s).length;
    return Array.isArray(steps) && steps.every(fits) ? steps : undefined;
  } catch {
    return undefined;
  }
}

/** As a body, a step on a line; undefined for none. */
export function bodyOf(steps: WalkStep[]): string | undefined {
  return steps.length === 0 ? undefined : `[\n${steps.map((s) => `  ${JSON.stringify(s)}`).join(",\n")}\n]`;
}

/** A step as another kind: what was typed first stays, and so does its field. */
export function asKind(step: WalkStep, to: StepKind): WalkStep {
  const before = kindOfStep(step);
  const first = before ? (step[before.values[0]?.name ?? ""] ?? "") : "";
  const second = before?.values[1] ? (step[before.values[1].name] ?? "") : "";
  return Object.fromEntries(to.values.map((v, i) => [v.name, i === 0 ? first : second]));
}

/** Moved by one place up (-1) or down (1). */
export function moved(steps: WalkStep[], at: number, by: number): WalkStep[] {
  const next = [...steps];
  const [step] = next.splice(at, 1);
  if (step) next.splice(at + by, 0, step);
  return next;
}
