import type { LiveTrigger, TriggerFiguresView } from "../../api/types";

const times = (n: number) => (n === 1 ? "once" : `${n} times`);

/** What a trigger came to of late, and by which of those before it what it would have taken was taken. */
export function figuresWords(
  of: LiveTrigger,
  all: LiveTrigger[],
  figures: TriggerFiguresView["figures"],
): { held: string; taken?: string } {
  const own = figures.find((f) => f.trigger === of.trigger.id);
  if (!own || own.looked === 0) return { held: "not looked at" };
  const name = (id: string) => all.find((t) => t.trigger.id === id)?.name ?? "one that is gone";
  const taken = own.gaveWay.map((g) => `${times(g.times)} to “${name(g.to)}”`).join(", ");
  return {
    held: `looked at ${times(own.looked)}, held ${own.held === 0 ? "never" : times(own.held)}`,
    ...(taken ? { taken: `Gave way ${taken}` } : {}),
  };
}
