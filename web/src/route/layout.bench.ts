import { bench, describe } from "vitest";
import { layoutRoute, type RouteStep } from "./layout";

/** A route of so many steps: a line with detours that return, and a third of it in three lanes. */
function route(count: number): RouteStep[] {
  const step = (id: string, to: string | null, detour?: string): RouteStep => ({
    id,
    exits: [{ name: "ok", to }, ...(detour ? [{ name: "failed", to: detour }] : [])],
    expected: to === null ? null : "ok",
  });
  const line = Math.floor((count * 2) / 3);
  const lane = Math.max(1, Math.floor((count - line) / 3));
  const steps = Array.from({ length: line }, (_, i) =>
    step(`s${i}`, i + 1 < line ? `s${i + 1}` : "both", i % 6 === 0 && i + 4 < line ? `s${i + 4}` : undefined),
  );
  const lanes = [0, 1, 2].map((n) => ({
    name: `Line ${n}`,
    steps: Array.from({ length: lane }, (_, i) => step(`l${n}x${i}`, i + 1 < lane ? `l${n}x${i + 1}` : null)),
  }));
  return [...steps, { ...step("both", "end"), lines: lanes }, { id: "end", exits: [], expected: null }];
}

describe("layout", () => {
  for (const count of [12, 60, 300]) {
    const steps = route(count);
    bench(`${count} steps`, () => {
      layoutRoute(steps);
    });
  }
});
