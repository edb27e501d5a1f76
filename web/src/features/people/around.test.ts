import { describe, expect, it } from "vitest";
import type { Ci } from "../../api/types";
import { around, MOST } from "./around";

const near = (ci: string, outgoing: boolean, open = 0) => ({ relation: "runs on", ci, name: ci, outgoing, open });
const further = (ci: string, via: string, outgoing: boolean) => ({ ...near(ci, outgoing), via });

function page(relations: Ci["relations"], more: Ci["further"] = []): Ci {
  return {
    ci: { id: "GW", name: "Gateway", kind: "gateway", life: "in use", attributes: {} },
    relations,
    further: more,
    changes: [],
    unmet: [],
    tickets: [],
  };
}

describe("what stands around a CI", () => {
  it("is what rests on it to the left, and what it rests on to the right", () => {
    const { columns, lines } = around(
      page(
        [near("board", false), near("power", true)],
        [further("hall", "board", false), further("grid", "power", true)],
      ),
    );
    expect(columns.map((c) => [c.level, c.shown.map((n) => n.id)])).toEqual([
      [-2, ["hall"]],
      [-1, ["board"]],
      [0, ["GW"]],
      [1, ["power"]],
      [2, ["grid"]],
    ]);
    expect(lines.map((l) => `${l.from}>${l.to}`)).toEqual(["board>GW", "GW>power", "hall>board", "power>grid"]);
  });

  it("shows what has open tickets first, and counts what does not fit", () => {
    const boards = Array.from({ length: 12 }, (_, i) => near(`board-${i + 1}`, false, i === 10 ? 2 : 0));
    const { columns, lines } = around(page(boards));
    expect(columns[0]?.shown[0]?.id).toBe("board-11");
    expect(columns[0]?.shown[1]?.id).toBe("board-1");
    expect(columns[0]?.more).toBe(12 - MOST);
    expect(lines).toHaveLength(MOST);
  });

  it("draws nothing twice, and goes round no ring", () => {
    const { columns } = around(
      page([near("a", true), near("a", false)], [further("GW", "a", true), further("a", "a", true)]),
    );
    expect(columns.flatMap((c) => c.shown.map((n) => n.id)).sort()).toEqual(["GW", "a"]);
  });
});
