// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { CallLine } from "../../api/types";
import { play, show } from "../../testing/stage";
import { CallsUnderWay } from "./CallsUnderWay";

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

it("goes when the machine is done", async () => {
  const answers: Record<string, unknown> = { "GET /api/tickets/I-7/calls": [CALL] };
  play(answers);
  show(<CallsUnderWay ticket="I-7" />);
  await screen.findByText("Read the log");
  answers["GET /api/tickets/I-7/calls"] = [];
  await waitFor(() => expect(screen.queryByText("Read the log")).toBeNull(), { timeout: 4_000 });
});
