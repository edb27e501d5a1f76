import type { Trigger } from "../../api/types";

type Names = { service: (id?: string) => string };

/** A trigger as a sentence: "when an incident is raised for Ticket gates, if …". */
export function triggerWords(trigger: Trigger, names: Names): string {
  const kind = trigger.when.kind ?? "ticket";
  const a = /^[aeiou]/.test(kind) ? "an" : "a";
  const services = trigger.services.length ? ` for ${trigger.services.map(names.service).join(" or ")}` : "";
  const mode = trigger.mode === "starts" ? "" : ` (${trigger.mode})`;
  const condition = (trigger.condition ? `, if ${trigger.condition}` : "") + mode;
  switch (trigger.when.is) {
    case "created":
      return `when ${a} ${kind} is raised${services}${condition}`;
    case "field reaches":
      return `when ${trigger.when.field} of ${a} ${kind} reaches “${trigger.when.value}”${services}${condition}`;
    case "by hand":
      return `by hand from ${a} ${kind}${services}${condition}`;
  }
}

/** How often something fired, in words. */
export function firedWords(count: number): string {
  return count === 1 ? "fired once" : `fired ${count} times`;
}
