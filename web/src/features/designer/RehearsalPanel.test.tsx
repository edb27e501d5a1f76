// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import type { Trigger, Version } from "../../api/types";
import { ADA, pick, play, show } from "../../testing/stage";
import { RehearsalPanel } from "./RehearsalPanel";

const VERSION = {
  key: "frozen",
  number: 1,
  name: "Frozen board",
  owner: "ines",
  startForm: [{ name: "board", label: "Board", type: "text", required: true }],
  body: { steps: [{ is: "end", id: "end", name: "End", result: "done" }] },
} as unknown as Version;

const TRIGGERS = [
  {
    id: "comes",
    on: true,
    mode: "starts",
    services: [],
    when: { is: "signal comes", kind: "incident", source: "board-monitor", sort: "fault" },
  },
  { id: "called", on: true, mode: "starts", services: [], when: { is: "called", kind: "routine" } },
] as unknown as Trigger[];

const STAGE = {
  record: [],
  asked: [],
  path: [],
  ended: undefined,
  stalled: undefined,
  refused: "It does not start: its condition does not hold.",
  tookSeconds: 0,
  now: "2026-03-02T10:00:00Z",
  fields: {},
};

const begun = () => {
  const sent = play({
    "GET /api/sources/board-monitor/samples": [{ name: "frozen at night", at: "2026-03-01T02:00:00Z", by: "ada" }],
    "GET /api/signals?source=board-monitor": {
      lines: [
        {
          id: "s1",
          source: "board-monitor",
          cameAt: "2026-03-02T09:00:00Z",
          state: "opened",
          title: "Board 7 is frozen",
        },
        { id: "s2", source: "board-monitor", cameAt: "2026-03-02T09:01:00Z", state: "not understood" },
      ],
      more: false,
    },
    "POST /api/rehearsals": STAGE,
  });
  show(
    <RehearsalPanel
      version={VERSION}
      triggers={TRIGGERS}
      onProgress={() => {}}
      onMarks={() => {}}
      onSelect={() => {}}
      onClose={() => {}}
    />,
    { as: ADA },
  );
  return sent;
};

it("begins by a signal that came, asks for nothing that it brings, and says why it would not start", async () => {
  const sent = begun();
  await pick(await screen.findByRole("combobox", { name: "It begins" }), "comes");
  expect(screen.queryByLabelText("On a copy of ticket")).toBeNull();
  expect(screen.queryByLabelText(/Board/)).toBeNull();
  expect(screen.getByRole("button", { name: "Begin" })).toHaveProperty("disabled", true);
  await pick(await screen.findByRole("combobox", { name: "The signal that comes" }), "s1");
  await userEvent.click(screen.getByRole("button", { name: "Begin" }));
  await waitFor(() =>
    expect(sent.at(-1)?.body).toMatchObject({
      begins: { trigger: "comes", source: "board-monitor", signal: "s1" },
      inputs: {},
    }),
  );
  expect(await screen.findByText("It does not start: its condition does not hold.")).toBeDefined();
});

it("begins by a sample that is kept", async () => {
  const sent = begun();
  await pick(await screen.findByRole("combobox", { name: "It begins" }), "comes");
  await pick(await screen.findByRole("combobox", { name: "The signal that comes" }), "kept frozen at night");
  await userEvent.click(screen.getByRole("button", { name: "Begin" }));
  await waitFor(() =>
    expect((sent.at(-1)?.body as { begins: unknown } | undefined)?.begins).toEqual({
      trigger: "comes",
      source: "board-monitor",
      sample: "frozen at night",
    }),
  );
});

it("begins by a call with the values that the caller gives", async () => {
  const sent = begun();
  await pick(await screen.findByRole("combobox", { name: "It begins" }), "called");
  await userEvent.type(screen.getByLabelText("Board (needed)"), "ALD-07");
  await userEvent.click(screen.getByRole("button", { name: "Begin" }));
  await waitFor(() =>
    expect(sent.at(-1)?.body).toMatchObject({ begins: { trigger: "called" }, inputs: { board: "ALD-07" } }),
  );
});

it("begins by hand where nothing else is chosen", async () => {
  const sent = begun();
  await userEvent.type(await screen.findByLabelText("Board (needed)"), "ALD-07");
  await userEvent.click(screen.getByRole("button", { name: "Begin" }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]?.body).not.toHaveProperty("begins");
});
