import { create } from "zustand";
import { createJSONStorage, persist } from "zustand/middleware";

/** A command that did not reach the server, or of which nobody knows whether it did. */
export interface Unsent {
  /** Whose it is: another person at the same browser does not send it. */
  person: string;
  ticket: string;
  path: string;
  body?: unknown;
  put?: boolean;
  /** The command's id: sent again under the same one, it does nothing twice. */
  id: string;
}

const same = (a: Unsent, path: string, body: unknown) =>
  a.path === path && JSON.stringify(a.body) === JSON.stringify(body);

/** Kept until it is sent or thrown away, also when the page is loaded anew. */
export const useUnsent = create<{
  list: Unsent[];
  keep: (u: Unsent) => void;
  /** What was sent to the same place is no longer waiting. */
  sent: (path: string) => void;
}>()(
  persist(
    (set) => ({
      list: [],
      keep: (u) => set(({ list }) => ({ list: [...list.filter((x) => x.path !== u.path), u] })),
      sent: (path) => set(({ list }) => ({ list: list.filter((x) => x.path !== path) })),
    }),
    { name: "dastur-unsent", storage: createJSONStorage(() => sessionStorage) },
  ),
);

/** The id of the same command when it was not sent before, else a fresh one. */
export function commandId(path: string, body: unknown): string {
  return useUnsent.getState().list.find((u) => same(u, path, body))?.id ?? crypto.randomUUID();
}

/** What was not sent, in words. */
export function unsentWords({ path, body }: Pick<Unsent, "path" | "body">): string {
  const b = (body ?? {}) as Record<string, unknown>;
  const last = path.split("/").at(-1);
  switch (last) {
    case "notes":
      return `your note “${clip(b.text)}”`;
    case "vote":
      return b.approve ? "your yes" : "your no";
    case "complete":
      return `the outcome “${clip(b.outcome)}”`;
    case "question":
      return `your question “${clip(b.text)}”`;
    case "readings":
      return "what you wanted to read";
    case "runs":
      return "the start of a workflow";
    case "answer":
      return typeof b.text === "string" ? `your answer “${clip(b.text)}”` : "your answer";
    default:
      return "fields" in b ? "your change" : "what you did";
  }
}

const clip = (text: unknown) => {
  const t = String(text ?? "");
  return t.length > 40 ? `${t.slice(0, 40)}…` : t;
};
