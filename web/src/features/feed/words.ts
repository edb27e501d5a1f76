import type { Delivery, SubscriptionView } from "../../api/types";

/** Kinds of entries in the words of whoever reads records: "ticketRaised" is "ticket raised". */
export const kindWords = (kind: string) => kind.replace(/([A-Z])/g, (c) => ` ${c.toLowerCase()}`).trim();

/** How a subscription stands, in words. @param left how long until it is tried again, in words */
export function standWords(
  view: SubscriptionView,
  left: (until: string) => string,
): { words: string; tone: "plain" | "late" | "soon" } {
  if (!view.subscription.on) return { words: "switched off", tone: "plain" };
  const { stand } = view;
  if (!stand) return { words: "begins to be told", tone: "plain" };
  if (stand.gone) return { words: "nobody is there any more: it answered 410", tone: "late" };
  if (stand.failures > 0)
    return {
      words: `not taken ${stand.failures === 1 ? "once" : `${stand.failures} times`}${stand.pausedUntil ? `, tried again in ${left(stand.pausedUntil)}` : ""}`,
      tone: "late",
    };
  return { words: "is told as it happens", tone: "plain" };
}

/** What became of an event. */
export function deliveryWords(d: Delivery): { words: string; tone: "plain" | "late" | "soon" } {
  const tries = d.tries > 1 ? `, after ${d.tries} tries` : "";
  if (d.state === "delivered") return { words: `taken${tries}`, tone: "plain" };
  if (d.state === "parked") return { words: `given up${tries}`, tone: "late" };
  return { words: "not taken yet", tone: "soon" };
}
