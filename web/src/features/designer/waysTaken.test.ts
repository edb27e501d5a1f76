import { expect, test } from "vitest";
import { waysTaken } from "./waysTaken";

test("the ways of a record are those by which its steps were left, each once", () => {
  expect(
    waysTaken([
      { body: { kind: "incident" } },
      { step: "look", body: { name: "Look" } },
      { step: "look", body: { exit: "Close the lane", to: "ok" } },
      { step: "ok", body: { exit: "declined" } },
      { step: "look", body: { exit: "Close the lane" } },
      { step: "wait", body: { exit: null } },
      { body: { exit: "lost" } },
    ]),
  ).toEqual(["look Close the lane", "ok declined"]);
});
