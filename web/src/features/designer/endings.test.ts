import { expect, test } from "vitest";
import { drawn, type Ending, marksOf, waysWords } from "./endings";

const ending = (over: Partial<Ending>): Ending => ({
  result: "closed",
  stalls: false,
  shortestSeconds: 300,
  longestSeconds: 300,
  ways: 1,
  answers: [],
  path: [],
  ...over,
});

test("an ending says how many ways lead there and how long they take", () => {
  expect(waysWords(ending({}))).toBe("1 way, 5 min");
  expect(waysWords(ending({ ways: 3, longestSeconds: 7200 }))).toBe("3 ways, 5 min to 2 h");
});

test("the route is marked where ways end and stall, and where none came", () => {
  const marks = marksOf({
    endings: [
      ending({ at: "end", ways: 2 }),
      ending({ at: "close", stalls: true }),
      ending({ at: "end", result: "closed late" }),
      ending({ result: "nowhere" }),
    ],
    neverReached: ["night"],
    stages: 9,
    bounded: false,
  });
  expect([...marks]).toEqual([
    ["night", "no way came here"],
    ["end", "ends here: 2 ways, 5 min; ends here: 1 way, 5 min"],
    ["close", "stalls here: 1 way, 5 min"],
  ]);
});

test("its way is drawn to where it ends", () => {
  const e = ending({
    at: "end",
    path: [
      { step: "look", exit: "Done" },
      { step: "close", exit: "ok" },
      { step: "look", exit: "Again" },
    ],
  });
  expect(drawn(e)).toEqual({ path: ["look", "close"], here: ["end"], ways: ["look Done", "close ok", "look Again"] });
});
