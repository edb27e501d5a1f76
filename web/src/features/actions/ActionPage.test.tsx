// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Action, ActionView } from "../../api/types";
import { ADA, play, Refusal, show } from "../../testing/stage";
import { ActionOf } from "./ActionPage";

const LOOK: Action = {
  key: "lane.look",
  name: "Look at a lane",
  description: "",
  connection: "lanes",
  call: { method: "GET", path: "/lanes/{{ input.gate }}" },
  inputs: [{ name: "gate", label: "Gate", type: "text", required: true }],
  outputs: [],
  results: [],
  repeat: "free",
  changesWorld: false,
  timeLimit: "20 s",
  tries: 1,
  pause: "5 s",
};

const VIEW: ActionView = {
  action: LOOK,
  number: { version: 3, mend: 1 },
  versions: [],
  users: [{ workflow: "gate", name: "Gate open", version: 3, steps: ["Look"] }],
  watches: [],
  findings: [],
  tries: [],
};

const answers = (more: Record<string, unknown> = {}) => ({
  "GET /api/actions/lane.look": VIEW,
  "GET /api/actions/lane.look/terms": { terms: { action: "lane.look" }, mayChange: true, canKeep: [] },
  "GET /api/automation": {
    connections: [{ key: "lanes", name: "Lanes", base: "https://lanes.example", allowedHosts: [] }],
    actions: [LOOK],
    secrets: [],
    uses: {},
    figures: {},
    health: {},
  },
  "POST /api/actions/lane.look/checks": {
    findings: [],
    becomes: { version: 3, mend: 2 },
    mends: true,
    users: VIEW.users,
  },
  ...more,
});

const open = (more?: Record<string, unknown>) => {
  const sent = play(answers(more));
  show(<ActionOf action="lane.look" />, { as: { ...ADA, roles: ["process owner"] } });
  return { sent, user: userEvent.setup() };
};

beforeEach(() => sessionStorage.clear());

describe("an action's page", () => {
  it("is looked at by a designer who does not keep it, and says whom to ask", async () => {
    open({
      "GET /api/actions/lane.look/terms": {
        terms: { action: "lane.look", keeper: "mira" },
        mayChange: false,
        canKeep: [],
      },
    });
    expect(await screen.findByText(/Kept by .*: ask them to change it/)).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("Time limit").matches(":disabled")).toBe(true);
    expect(screen.getByText("Try it")).toBeTruthy();
  });

  it("asks why before a mend reaches others, and sends the number it was typed on", async () => {
    const { sent, user } = open({
      "PUT /api/actions/lane.look": {
        ...VIEW,
        number: { version: 3, mend: 2 },
        action: { ...LOOK, timeLimit: "25 s" },
      },
    });
    const limit = await screen.findByLabelText("Time limit");
    await user.clear(limit);
    await user.type(limit, "25 s");
    const save = await screen.findByRole<HTMLButtonElement>("button", { name: "Save as 3.2" });
    expect(screen.getByText(/“Gate open” gets it from the next step on/)).toBeTruthy();
    expect(save.disabled).toBe(true);
    await user.type(screen.getByLabelText("Why, for the journal"), "slow at night");
    await user.click(save);
    await waitFor(() =>
      expect(sent.find((s) => s.method === "PUT")?.body).toMatchObject({
        on: { version: 3, mend: 1 },
        why: "slow at night",
        action: { timeLimit: "25 s" },
      }),
    );
    await waitFor(() => expect(screen.queryByRole("button", { name: /^Save/ })).toBeNull());
    expect(screen.getByLabelText<HTMLInputElement>("Time limit").value).toBe("25 s");
  });

  it("keeps what was typed when it is refused, and says why", async () => {
    const { user } = open({ "PUT /api/actions/lane.look": new Refusal(409, "Somebody saved it meanwhile.") });
    const limit = await screen.findByLabelText("Time limit");
    await user.clear(limit);
    await user.type(limit, "25 s");
    await user.type(await screen.findByLabelText("Why, for the journal"), "x");
    await user.click(screen.getByRole("button", { name: "Save as 3.2" }));
    expect(await screen.findByText(/Somebody saved it meanwhile/)).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("Time limit").value).toBe("25 s");
  });

  it("asks again under the same id when the line broke, so that it is sent once", async () => {
    const { sent, user } = open({});
    await user.type(await screen.findByLabelText("Gate (needed)"), "G1");
    await user.click(screen.getByRole("button", { name: "Send it" }));
    await waitFor(() => expect(sent.filter((s) => s.method === "PUT")).toHaveLength(1));
    await user.click(screen.getByRole("button", { name: "Send it" }));
    await waitFor(() => expect(sent.filter((s) => s.method === "PUT")).toHaveLength(2));
    const [one, two] = sent.filter((s) => s.method === "PUT");
    expect(one?.path).toBe(two?.path);
  });

  it("withdraws a version for a reason, and lets it in again", async () => {
    const version = (mend: number, action: Action, why?: string) => ({
      number: { version: 3, mend },
      at: "2026-03-02T09:00:00Z",
      by: "ada",
      why,
      action,
    });
    const bad = { ...LOOK, withdrawn: "It reads another lane." };
    const before = { ...VIEW, versions: [version(1, LOOK)] };
    const after = { ...VIEW, action: bad, versions: [version(2, bad, bad.withdrawn), version(1, LOOK)] };
    const PUT = "PUT /api/actions/lane.look/versions/3/withdrawal";
    let tries = 0;
    const { sent, user } = open({
      "GET /api/actions/lane.look": before,
      [PUT]: () => (++tries === 1 ? new Refusal(422, "Say it in fewer words.", { where: "why" }) : after),
      "POST /api/actions/lane.look/versions/3/use": before,
    });
    await user.click(await screen.findByRole("button", { name: "Withdraw… version 3" }));
    const dialog = await screen.findByRole("dialog", { name: "Withdraw version 3 of Look at a lane" });
    expect(dialog.textContent).toContain("Used by “Gate open” (Look).");
    await user.type(screen.getByLabelText("Why"), "  It reads another lane.");
    await user.click(screen.getByRole("button", { name: "Withdraw it" }));
    await screen.findByText("Say it in fewer words.");
    await user.click(screen.getByRole("button", { name: "Withdraw it" }));
    const again = await screen.findByRole("button", { name: "Let version 3 be used again" });
    expect(sent.at(-1)).toMatchObject({ method: "PUT", body: { why: "It reads another lane." } });
    expect(screen.queryByRole("dialog")).toBeNull();
    expect(screen.getByText(/Nothing begins by it any more: It reads another lane\./)).toBeTruthy();
    await user.click(again);
    await screen.findByRole("button", { name: "Withdraw… version 3" });
    expect(screen.queryByText("withdrawn")).toBeNull();
  });

  it("offers neither to whoever may not change it", async () => {
    const versions = [{ number: VIEW.number, at: "2026-03-02T09:00:00Z", action: LOOK }];
    play(answers({ "GET /api/actions/lane.look": { ...VIEW, versions } }));
    show(<ActionOf action="lane.look" />, { as: ADA });
    await screen.findByText("as it was set up");
    expect(screen.queryByRole("button", { name: /Withdraw/ })).toBeNull();
  });
});
