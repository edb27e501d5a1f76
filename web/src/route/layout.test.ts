import { describe, expect, test } from "vitest";
import { layoutRoute, type RouteLayout, type RouteStep } from "./layout";

const step = (id: string, ...exits: [string, string | null][]): RouteStep => ({
  id,
  exits: exits.map(([name, to]) => ({ name, to })),
  expected: exits[0]?.[0] ?? null,
});

const gate = [
  step("look", ["close", "approve"], ["cleared", "clearedNote"]),
  step("approve", ["approved", "close"], ["declined", "stay"]),
  step("close", ["ok", "tell"], ["failed", "byHand"]),
  step("byHand", ["locked", "tell"]),
  step("tell", ["sent", "end"]),
  step("end"),
  step("clearedNote", ["done", "cleared"]),
  step("cleared"),
  step("stay", ["works", "look"]),
];

const order = (layout: RouteLayout) => layout.rows.map((r) => `${r.id}@${r.column}`);

describe("the route's layout", () => {
  test("draws the expected way as one straight line and detours directly below where they leave", () => {
    expect(order(layoutRoute(gate))).toEqual([
      "look@0",
      "clearedNote@1",
      "cleared@1",
      "approve@0",
      "stay@1",
      "close@0",
      "byHand@1",
      "tell@0",
      "end@0",
    ]);
  });

  test("leads a detour back to the line, and a way back along the left", () => {
    const ways = layoutRoute(gate).ways;
    expect(ways.find((w) => w.from === "byHand")).toMatchObject({ to: "tell", kind: "detour", track: 1 });
    expect(ways.find((w) => w.from === "stay")).toMatchObject({ to: "look", kind: "back", track: 0 });
    expect(ways.filter((w) => w.kind === "main").map((w) => w.from)).toEqual(["look", "approve", "close", "tell"]);
  });

  test("keeps steps that nothing leads to in sight, marked", () => {
    const layout = layoutRoute([...gate, step("lost", ["done", "end"])]);
    expect(layout.rows.find((r) => r.id === "lost")).toMatchObject({ reached: false, column: 1 });
  });

  test("copes with no steps, a step leading to itself, and ways to nowhere", () => {
    expect(layoutRoute([]).rows).toEqual([]);
    expect(layoutRoute([step("a", ["again", "a"], ["out", null], ["gone", "missing"])]).ways).toEqual([
      { from: "a", exit: "again", to: "a", kind: "back", track: 0 },
    ]);
  });

  test("over random routes: every step has one row, and no track passes through a step or another way", () => {
    let seed = 7;
    const random = (n: number) => {
      seed = (seed * 1103515245 + 12345) % 2147483648;
      return seed % n;
    };
    for (let round = 0; round < 300; round++) {
      const size = 2 + random(18);
      const steps = Array.from({ length: size }, (_, i) =>
        step(`s${i}`, ...Array.from({ length: random(4) }, (_, e): [string, string] => [`e${e}`, `s${random(size)}`])),
      );
      const layout = layoutRoute(steps);
      expect(new Set(layout.rows.map((r) => r.id)).size).toBe(size);
      const row = new Map(layout.rows.map((r) => [r.id, r]));
      const forward = layout.ways.filter((w) => w.kind !== "back");
      for (const way of forward) {
        const top = row.get(way.from)?.row ?? 0;
        const bottom = row.get(way.to)?.row ?? 0;
        expect(layout.rows.some((r) => r.row > top && r.row < bottom && r.column === way.track)).toBe(false);
        for (const other of forward) {
          if (other.to === way.to || other.track !== way.track) continue;
          const otherTop = row.get(other.from)?.row ?? 0;
          const otherBottom = row.get(other.to)?.row ?? 0;
          expect(otherTop < bottom && top < otherBottom).toBe(false);
        }
      }
      expect(layoutRoute(steps)).toEqual(layout);
    }
  });

  test("runs the lanes of a bracket side by side below it, and the line goes on after them", () => {
    const inner = (id: string): RouteStep => step(id, ["Done", `${id}End`]);
    const both: RouteStep = {
      ...step("both", ["joined", "end"], ["short", "few"]),
      lines: [
        { name: "Left", steps: [inner("left"), step("leftEnd")] },
        { name: "Right", steps: [inner("right"), step("rightEnd")] },
      ],
    };
    const layout = layoutRoute([both, step("end"), step("few")]);
    expect(order(layout)).toEqual([
      "both@0",
      "both/0@1",
      "left@1",
      "leftEnd@1",
      "both/1@2",
      "right@2",
      "rightEnd@2",
      "few@1",
      "end@0",
    ]);
    expect(layout.rows.map((r) => r.number)).toEqual([1, 1, 2, 3, 3, 4, 5, 6, 7]);
    expect(layout.brackets).toEqual([
      {
        id: "both",
        column: 0,
        top: 0,
        bottom: 6,
        lines: [
          { column: 1, from: 1, to: 3 },
          { column: 2, from: 4, to: 6 },
        ],
      },
    ]);
    expect(layout.rows.slice(1, 7).every((r) => r.edge >= 2)).toBe(true);
    const short = layout.ways.find((w) => w.exit === "short");
    expect(layout.rows.slice(1, 7).every((r) => r.column !== short?.track)).toBe(true);
    expect(layout.rows[2]?.edge).toBeGreaterThanOrEqual(short?.track ?? 99);
  });

  test("lays out three hundred steps within a frame", () => {
    const many = Array.from({ length: 300 }, (_, i) =>
      step(`s${i}`, ["ok", i < 299 ? `s${i + 1}` : null], ["failed", i % 7 === 0 ? "s299" : null]),
    );
    expect(layoutRoute(many).rows).toHaveLength(300);
  });
});
