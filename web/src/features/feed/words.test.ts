import { expect, it } from "vitest";
import type { Delivery, SubscriptionView } from "../../api/types";
import { deliveryWords, kindWords, standWords } from "./words";

const view = (on: boolean, stand?: Partial<SubscriptionView["stand"]>): SubscriptionView => ({
  subscription: {
    key: "s",
    name: "S",
    on,
    address: "https://x.example/",
    wanted: { kinds: [], tickets: [] },
    fields: [],
    as: "ada",
  },
  signs: true,
  ...(stand ? { stand: { upto: 1, failures: 0, gone: false, ...stand } } : {}),
});

it.each([
  [view(false), "switched off"],
  [view(true), "begins to be told"],
  [view(true, {}), "is told as it happens"],
  [view(true, { failures: 3, pausedUntil: "2026-11-29T04:00:00Z" }), "not taken 3 times, tried again in 2 min"],
  [view(true, { gone: true, failures: 1 }), "nobody is there any more: it answered 410"],
])("says how it stands", (v, words) => {
  expect(standWords(v, () => "2 min").words).toBe(words);
});

it("says what became of an event", () => {
  const d: Delivery = { event: "I-1/2", place: 1, kind: "noteAdded", at: "", state: "delivered", tries: 1, answer: "" };
  expect(deliveryWords(d).words).toBe("taken");
  expect(deliveryWords({ ...d, state: "parked", tries: 5 })).toEqual({
    words: "given up, after 5 tries",
    tone: "late",
  });
  expect(kindWords("ticketRaised")).toBe("ticket raised");
});
