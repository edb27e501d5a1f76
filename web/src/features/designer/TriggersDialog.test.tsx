// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import type { Trigger, Workflow } from "../../api/types";
import { pick, play, type Sent, show } from "../../testing/stage";
import { TriggersDialog } from "./TriggersDialog";

const WORKFLOW = {
  key: "hurry",
  name: "Hurry",
  live: { kind: "change", startForm: [] },
  triggers: [
    {
      trigger: { id: "t1", on: true, when: { is: "created", kind: "change" }, services: [], mode: "starts" },
      firings: 0,
    },
  ],
} as unknown as Workflow;

async function dialog(): Promise<Sent[]> {
  const sent = play({
    "PUT /api/workflows/hurry/triggers": {},
    "GET /api/directory": { sources: [{ key: "gates", name: "Gate monitor" }] },
  });
  show(<TriggersDialog workflow={WORKFLOW} onClose={() => undefined} />);
  await screen.findByRole("button", { name: "Save" });
  return sent;
}

async function saved(sent: Sent[]): Promise<Trigger["when"] | undefined> {
  await userEvent.click(screen.getByRole("button", { name: "Save" }));
  await waitFor(() => expect(sent).toHaveLength(1));
  const body = sent[0]?.body as { triggers: Trigger[] } | undefined;
  return body?.triggers[0]?.when;
}

it("listens to a vote that ends, as it is said", async () => {
  const sent = await dialog();
  await pick(screen.getByLabelText("When"), "an approval on a ticket ends");
  await pick(screen.getByLabelText("As"), "declined");
  screen.getByText("when an approval on a change is declined");
  expect(await saved(sent)).toEqual({ is: "approval ends", kind: "change", exit: "declined" });
});

it("listens to a clock, and takes no percent that it cannot reach", async () => {
  const sent = await dialog();
  await pick(screen.getByLabelText("When"), "a clock of a ticket has run so far");
  await pick(screen.getByLabelText("Which clock"), "the time to respond");
  const percent = screen.getByLabelText("Percent of it that has passed");
  await userEvent.clear(percent);
  await userEvent.type(percent, "180");
  await userEvent.click(screen.getByRole("button", { name: "Save" }));
  expect(sent).toEqual([]);
  await userEvent.clear(percent);
  await userEvent.type(percent, "100");
  screen.getByText("when the time to respond to a change is over");
  expect(await saved(sent)).toEqual({ is: "clock reaches", kind: "change", clock: "respond", percent: 100 });
});

it("listens to a signal that is entered on a ticket", async () => {
  const sent = await dialog();
  await pick(screen.getByLabelText("When"), "a signal is entered on a ticket");
  await pick(screen.getByLabelText("From the source"), "Gate monitor");
  await pick(screen.getByLabelText("That tells of"), "a recovery");
  screen.getByText("when a recovery from Gate monitor is entered on a change");
  expect(await saved(sent)).toEqual({ is: "signal entered", kind: "change", source: "gates", sort: "recovered" });
});
