import { describe, expect, it } from "vitest";
import type { Step, Version } from "../../api/types";
import { pasted } from "./clipboard";

const end = (id: string): Step => ({ kind: "end", id, name: "Done", result: "done", ending: "line" });
const task = (id: string, to: string, instructions?: string): Step => ({
  kind: "task",
  id,
  name: "id",
  ...(instructions ? { instructions } : {}),
  assignee: { is: "ticketGroup" },
  outcomes: ["id"],
  mayLeaveOut: false,
  ways: { id: to },
});
const stage: Step = {
  kind: "stage",
  id: "work",
  name: "Work",
  body: {
    steps: [
      task("look", "fix"),
      task("fix", "over", "Seen: {{ steps.look.note }} of {{ steps.other.note }}"),
      end("over"),
    ],
  },
  ways: { done: "elsewhere" },
};
const version = (steps: Step[]): Version => ({
  key: "w",
  number: 1,
  name: "W",
  owner: "ines",
  startForm: [],
  vars: [],
  results: [],
  conditions: {},
  notes: {},
  body: { steps },
});

describe("a copied step", () => {
  it("keeps its ids where they are free, and leaves its own ways open", () => {
    expect(pasted(stage, version([]))).toEqual({ ...stage, ways: {} });
  });

  it("gets new ids where they are taken; ways and expressions inside follow, names and outcomes stay", () => {
    const fresh = pasted(stage, version([task("look", "work"), end("work")]));
    if (fresh.kind !== "stage") throw new Error(fresh.kind);
    expect(fresh.id).toBe("work2");
    const [look, fix, over] = fresh.body.steps;
    expect(look?.id).toBe("look2");
    expect(look?.kind === "task" && look.ways).toEqual({ id: "fix" });
    expect(look?.kind === "task" && look.outcomes).toEqual(["id"]);
    expect(fix?.kind === "task" && fix.instructions).toBe("Seen: {{ steps.look2.note }} of {{ steps.other.note }}");
    expect(over?.id).toBe("over");
  });
});
