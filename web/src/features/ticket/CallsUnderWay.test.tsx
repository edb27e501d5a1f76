// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { CallLine } from "../../api/types";
import { play, show } from "../../testing/stage";
import { CallsUnderWay, howFar } from "./CallsUnderWay";

const CALL: CallLine = {
  visit: "I-7.1.2",
  attempt: 2,
  step: "Read the log",
  action: "board.log",
  since: "2026-03-02T09:50:00Z",
  usually: 40_000,
};

it("tells what a machine is at, how long it usually takes, and each thing it says once", async () => {
  const said = "/api/tickets/I-7/calls/I-7.1.2/2?from=";
  play({
    "GET /api/tickets/I-7/calls": [CALL],
    [`GET ${said}0`]: { text: "first line\n", next: 1 },
    [`GET ${said}1`]: { text: "second line\n", next: 2 },
    [`GET ${said}2`]: { text: "", next: 2 },
  });
  show(<CallsUnderWay ticket="I-7" />);
  expect(await screen.findByText("Read the log")).toBeTruthy();
  expect(screen.getByText(/try 2; usually it takes 40 s/)).toBeTruthy();
  await waitFor(() => expect(screen.getByRole("log").textContent).toBe("first line\nsecond line\n"), {
    timeout: 4_000,
  });
});

it("says that calls over the connection wait, who holds them back, and why", async () => {
  const over = {
    connection: "Board gateway",
    held: {
      since: "2026-03-02T09:49:00Z",
      byHand: { held: true, by: "teo", at: "2026-03-02T09:49:00Z", why: "It moves." },
    },
  };
  play({ "GET /api/tickets/I-7/calls": [{ ...CALL, over }] });
  show(<CallsUnderWay ticket="I-7" />);
  const told = await screen.findByText(/Calls over Board gateway wait since/);
  await waitFor(() => expect(told.textContent).toContain("Teo Marchetti holds them back. It moves."));
  expect(screen.queryByText(/is under way for/)?.textContent).toContain("waits or is under way");
});

it("goes when the machine is done", async () => {
  const answers: Record<string, unknown> = { "GET /api/tickets/I-7/calls": [CALL] };
  play(answers);
  show(<CallsUnderWay ticket="I-7" />);
  await screen.findByText("Read the log");
  answers["GET /api/tickets/I-7/calls"] = [];
  await waitFor(() => expect(screen.queryByText("Read the log")).toBeNull(), { timeout: 4_000 });
});

it.each([
  ["POST /machines → 202\n0 %\n40 %: its disk is copied\n", { percent: 40, words: "its disk is copied" }],
  ["70 %\nwaits for its first sign\n", { percent: 70, words: "" }],
  ["140 %: odd\n", { percent: 100, words: "odd" }],
  ["disk 40 % full\n", undefined],
  ["", undefined],
])("tells how far it is by its last line that says so: %j", (said, far) => expect(howFar(said)).toEqual(far));

it("shows how far it is, and what it is at", async () => {
  const said = "/api/tickets/I-7/calls/I-7.1.2/2?from=";
  play({
    "GET /api/tickets/I-7/calls": [CALL],
    [`GET ${said}0`]: { text: "40 %: its disk is copied\n", next: 1 },
    [`GET ${said}1`]: { text: "", next: 1 },
  });
  show(<CallsUnderWay ticket="I-7" />);
  const bar = await screen.findByRole("progressbar", { name: "How far Read the log is" }, { timeout: 4_000 });
  expect(bar.getAttribute("aria-valuenow")).toBe("40");
  expect(screen.getByRole("status").textContent).toBe("40 % its disk is copied");
});
