import type { Explored } from "../../api/types";
import { span } from "../../ui/time";

export type Ending = Explored["endings"][number];

/** How many ways, and how long they take. */
export function waysWords(e: Ending): string {
  const long = e.longestSeconds > e.shortestSeconds ? ` to ${span(e.longestSeconds * 1000)}` : "";
  return `${e.ways} ${e.ways === 1 ? "way" : "ways"}, ${span(e.shortestSeconds * 1000)}${long}`;
}

/** What is drawn on the route of all ways: where they end or stall, and which steps none came to. */
export function marksOf(explored: Explored): Map<string, string> {
  const marks = new Map(explored.neverReached.map((id) => [id, "no way came here"]));
  for (const e of explored.endings) {
    if (!e.at) continue;
    const says = `${e.stalls ? "stalls here" : "ends here"}: ${waysWords(e)}`;
    const before = marks.get(e.at);
    marks.set(e.at, before ? `${before}; ${says}` : says);
  }
  return marks;
}

/** The way of an ending, as the route draws it. */
export const drawn = (e: Ending) => ({
  path: [...new Set(e.path.map((w) => w.step))],
  here: e.at ? [e.at] : [],
  ways: e.path.map((w) => `${w.step} ${w.exit}`),
});
