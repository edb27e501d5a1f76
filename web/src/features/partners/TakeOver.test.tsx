// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { PartnerView } from "../../api/types";
import { ADA, play, Refusal, show } from "../../testing/stage";
import { TakeOver } from "./TakeOver";

const COUNT = {
  open: 4,
  unclear: 1,
  ended: 2,
  known: 0,
  unknown: [{ field: "state", word: "on the bench", count: 1 }],
  first: [{ id: "F-1", title: "Hinge worn" }],
};

const WORK = { since: "2026-11-02T00:00:00Z", by: "ines", at: "2026-12-02T09:00:00Z", refused: 0, ended: 0, left: 0 };

const view = (more: object = {}, on = true) =>
  ({ partner: { key: "lane", on }, line: { name: "Lane supplier" }, group: "liaison", ...more }) as PartnerView;

async function ask(answers: Record<string, unknown>) {
  const sent = play({
    "GET /api/directory": {
      people: [{ id: "ines", name: "Ines Roy" }],
      groups: [{ id: "liaison", name: "Suppliers liaison" }],
      services: [],
      fields: [{ name: "state", label: "State" }],
      ciFields: [],
      rotas: [],
    },
    ...answers,
  });
  show(<TakeOver view={view()} may />, { as: ADA });
  const user = userEvent.setup();
  await user.click(await screen.findByRole("button", { name: "Take over what is open there…" }));
  return { sent, user, dialog: within(await screen.findByRole("dialog")) };
}

describe("taking over what was open at a partner's desk", () => {
  it("is counted before it can be done, and what was counted is what is done", async () => {
    const { sent, user, dialog } = await ask({
      "POST /api/partners/lane/takeovers/count": COUNT,
      "POST /api/partners/lane/takeovers": {},
    });
    expect(dialog.queryByRole("button", { name: /^Take over/ })).toBeNull();
    await user.click(dialog.getByRole("button", { name: "Count them first" }));
    await dialog.findByText("4 are open there and would be taken over.");
    dialog.getByText("2 have ended there and would stay there.");
    dialog.getByText("State: “on the bench” on 1");
    await user.click(dialog.getByRole("button", { name: "Take over 4" }));
    const [counted, begun] = sent.filter((s) => s.method === "POST");
    expect(begun?.body).toEqual(counted?.body);
    expect(screen.queryByRole("dialog")).toBeNull();
  });

  it("is counted anew where another day is written", async () => {
    const { user, dialog } = await ask({ "POST /api/partners/lane/takeovers/count": COUNT });
    await user.click(dialog.getByRole("button", { name: "Count them first" }));
    await dialog.findByRole("button", { name: "Take over 4" });
    await user.clear(dialog.getByLabelText("Touched there since"));
    await user.type(dialog.getByLabelText("Touched there since"), "2026-10-01");
    expect(dialog.queryByRole("button", { name: "Take over 4" })).toBeNull();
  });

  it("offers nothing where nothing is open, and says what is wrong with the day", async () => {
    const { user, dialog } = await ask({
      "POST /api/partners/lane/takeovers/count": new Refusal(422, "Name a day that has been.", { where: "since" }),
    });
    await user.click(dialog.getByRole("button", { name: "Count them first" }));
    await dialog.findByText("Name a day that has been.");
    expect(dialog.queryByRole("button", { name: /^Take over/ })).toBeNull();
  });

  it("tells how far it has come, and is stopped by who may", async () => {
    const sent = play({ "POST /api/partners/lane/takeovers/stop": {} });
    const taking = { ...WORK, state: "taking", taken: 12, left: 28 };
    show(<TakeOver view={view({ takeover: taking })} may />, { as: ADA });
    await screen.findByText(/12 taken over, 28 to go/);
    expect(screen.queryByRole("button", { name: /^Take over/ })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Stop" }));
    expect(sent.some((s) => s.path.endsWith("/takeovers/stop"))).toBe(true);
  });

  it("shows those who may not begin it only how it went", async () => {
    play({});
    show(<TakeOver view={view({ takeover: { ...WORK, state: "done", taken: 1, ended: 2 } })} may={false} />, {
      as: ADA,
    });
    await screen.findByText(/Taken over: 1 ticket that was open there since .*\. 2 had ended there\./);
    expect(screen.queryByRole("button")).toBeNull();
  });
});
