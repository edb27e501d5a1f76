// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Rehearsal, Version } from "../../api/types";
import { pick, play, show } from "../../testing/stage";
import { AnswersAt } from "./AnswersAt";
import { useAsking } from "./asking";

const VERSION = {
  key: "gate",
  number: 1,
  name: "Gate",
  owner: "ada",
  startForm: [],
  vars: [],
  results: [],
  conditions: {},
  notes: {},
  body: {
    steps: [
      {
        kind: "task",
        id: "look",
        name: "Look",
        outcomes: ["Done", "Not"],
        form: [
          { name: "tries", label: "How often", type: "whole number", required: false },
          { name: "open", label: "Is it open", type: "yes or no", required: false },
        ],
        ways: {},
      },
      { kind: "approval", id: "decide", name: "Decide", ways: {} },
    ],
  },
} as unknown as Version;

const asked = (step: string, name: string, ...exits: string[]): Rehearsal["asked"][number] => ({
  visit: `${step}.1`,
  step,
  name,
  options: exits.map((exit) => ({ step, says: "does", exit })) as never,
});

const answer = vi.fn();

beforeEach(() => {
  answer.mockClear();
  useAsking.setState({
    asked: [asked("look", "Look at it", "Done", "Not"), asked("decide", "Decide", "approved")],
    answer,
  });
});

function open(step: string) {
  play({ "GET /api/catalogue": { actions: [], ladders: [], paths: [] } });
  show(<AnswersAt version={VERSION} step={step} />);
  return userEvent.setup();
}

describe("an answer at a step of the route", () => {
  it("is one of what can be answered there, and of no other step", async () => {
    const user = open("look");
    await user.click(await screen.findByRole("button", { name: "Not" }));
    expect(answer).toHaveBeenCalledWith({ step: "look", says: "does", exit: "Not" });
    expect(screen.queryByRole("button", { name: "approved" })).toBeNull();
  });

  it("takes values by their types, and leaves out what was not said", async () => {
    const user = open("look");
    await user.click(await screen.findByText("with values…"));
    await user.type(screen.getByLabelText("How often"), "3");
    await user.click(screen.getByRole("button", { name: "Done" }));
    expect(answer).toHaveBeenLastCalledWith({ step: "look", says: "does", exit: "Done", values: { tries: 3 } });
    await pick(screen.getByLabelText("Is it open"), "yes");
    await user.click(screen.getByRole("button", { name: "Done" }));
    expect(answer).toHaveBeenLastCalledWith(expect.objectContaining({ values: { tries: 3, open: true } }));
  });

  it("offers no values where the step gives none", async () => {
    open("decide");
    expect(await screen.findByRole("button", { name: "approved" })).toBeTruthy();
    expect(screen.queryByText("with values…")).toBeNull();
  });
});
