import { create } from "zustand";

/** An outcome that was just given and can be taken back for a moment. */
export interface Given {
  visit: string;
  ticket: string;
  task: string;
  outcome: string;
  /** When it can no longer be, by this clock. */
  until: number;
}

/** How long an outcome can be taken back, as the server allows it. */
const WITHIN = 10_000;

export const useGiven = create<{ given?: Given; give: (g: Omit<Given, "until">) => void; forget: () => void }>(
  (set) => ({
    give: (g) => set({ given: { ...g, until: Date.now() + WITHIN } }),
    forget: () => set({ given: undefined }),
  }),
);
