import { create } from "zustand";
import type { Answer, Rehearsal } from "../../api/types";

type Asked = Rehearsal["asked"][number];

/** What a rehearsal waits for, answered at its step on the route. */
export const useAsking = create<{ asked: Asked[]; answer: (a: Answer) => void }>(() => ({
  asked: [],
  answer: () => undefined,
}));
