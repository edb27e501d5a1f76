import { expect, test } from "vitest";
import type { Trigger } from "../../api/types";
import { firedWords, triggerWords } from "./triggerWords";

const names = {
  service: (id?: string) => (id === "gates" ? "Ticket gates" : (id ?? "")),
  source: (key?: string) => (key === "boards" ? "Board monitor" : (key ?? "")),
  field: (path: string) => (path === "ticket.lockNumber" ? "Lock number" : undefined),
};
const trigger = (over: object): Trigger =>
  ({ id: "t", on: true, when: { is: "created", kind: "incident" }, services: [], mode: "starts", ...over }) as Trigger;

test.each<[string, Trigger]>([
  ["when an incident is raised", trigger({})],
  ["when a change is raised", trigger({ when: { is: "created", kind: "change" } })],
  ["when a ticket is raised", trigger({ when: { is: "created" } })],
  ["when an incident is raised for Ticket gates or boards", trigger({ services: ["gates", "boards"] })],
  ["when an incident is raised, if impact is below 3", trigger({ condition: "ticket.impact < 3" })],
  ["when an incident is raised, if x (asks first)", trigger({ condition: "x", mode: "asks first" })],
  [
    "when an incident is marked as major",
    trigger({ when: { is: "field reaches", kind: "incident", field: "major", value: "true" } }),
  ],
  [
    "when the state of a change becomes “closed”",
    trigger({ when: { is: "field reaches", kind: "change", field: "state", value: "closed" } }),
  ],
  [
    "when the lock number of a ticket becomes yes",
    trigger({ when: { is: "field reaches", field: "lockNumber", value: "true" } }),
  ],
  [
    "when Board monitor reports a fault, minor or worse, if the signal’s picture age is at least 60",
    trigger({
      when: { is: "signal comes", source: "boards", sort: "fault", atLeast: "minor" },
      condition: "signal.pictureAge >= 60",
    }),
  ],
  [
    "when an approval on a change is declined",
    trigger({ when: { is: "approval ends", kind: "change", exit: "declined" } }),
  ],
  [
    "when 75 % of the time to restore an incident has passed for Ticket gates",
    trigger({ when: { is: "clock reaches", kind: "incident", clock: "restore", percent: 75 }, services: ["gates"] }),
  ],
  [
    "when the time to respond to a ticket is over",
    trigger({ when: { is: "clock reaches", clock: "respond", percent: 100 } }),
  ],
  [
    "when a fault from Board monitor is entered on a change",
    trigger({ when: { is: "signal entered", kind: "change", source: "boards", sort: "fault" } }),
  ],
  ["when news is entered on a ticket", trigger({ when: { is: "signal entered", sort: "news" } })],
  ["when any source reports news", trigger({ when: { is: "signal comes", sort: "news", atLeast: "minor" } })],
  [
    "when any source reports that something has recovered",
    trigger({ when: { is: "signal comes", sort: "recovered" } }),
  ],
  ["by hand from a request", trigger({ when: { is: "by hand", kind: "request" } })],
])("%s", (words, t) => expect(triggerWords(t, names)).toBe(words));

test("how often it fired", () => {
  expect([0, 1, 2].map(firedWords)).toEqual(["fired 0 times", "fired once", "fired 2 times"]);
});
