import { create } from "zustand";

/** Somebody was first: what was pressed is gone from the screen, so it is said beside it. */
export interface TooLate {
  ticket: string;
  title: string;
  detail: string;
}

export const useTooLate = create<{ said?: TooLate; say: (t: TooLate) => void; forget: () => void }>((set) => ({
  say: (said) => set({ said }),
  forget: () => set({ said: undefined }),
}));
