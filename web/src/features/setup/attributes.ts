import type { Directory, Field } from "../../api/types";

/** What every CI has beside its attributes and its service. */
export const BUILT_IN = ["id", "name", "kind", "site", "address", "owner", "life"];

/** What becomes of a CI, as the server knows it. */
export const LIVES = ["planned", "ordered", "in use", "retired"];

/** The attributes that the organisation has declared for a kind of CI. */
export function attributesOf(directory: Directory | undefined, kind: string): Field[] {
  return (directory?.ciFields ?? []).filter((f) => {
    const of = directory?.ciKinds[f.name] ?? [];
    return !BUILT_IN.includes(f.name) && (of.length === 0 || of.includes(kind.trim()));
  });
}

/** What a CI lacks of what its kind needs, by label. */
export function lacking(
  directory: Directory | undefined,
  ci: { kind: string; attributes: Record<string, unknown> },
): string[] {
  return attributesOf(directory, ci.kind)
    .filter((f) => f.required && (ci.attributes[f.name] === undefined || ci.attributes[f.name] === ""))
    .map((f) => f.label);
}
