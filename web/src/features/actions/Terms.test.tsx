// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { TermsView } from "../../api/types";
import { ADA, pick, play, Refusal, show } from "../../testing/stage";
import { KeptNotice } from "./Kept";
import { Terms } from "./Terms";

const VIEW: TermsView = {
  terms: {
    action: "lane.close",
    keeper: "ines",
    groups: ["board"],
    sites: ["ALD"],
    tellAfter: 3,
    renewMonths: 12,
  },
  renewBy: "2020-01-02T08:00:00Z",
  mayChange: true,
  canKeep: ["ines"],
};

const open = (view: TermsView, more: Record<string, unknown> = {}) => {
  const sent = play({ "GET /api/actions/lane.close/terms": view, ...more });
  show(<Terms action="lane.close" name="Close a lane" may />, { as: { ...ADA, roles: ["process owner"] } });
  return { sent, user: userEvent.setup() };
};

describe("who may use an action", () => {
  it("is said in sentences, and once it is due the keeper says that it is right still", async () => {
    const { sent, user } = open(VIEW, {
      "POST /api/actions/lane.close/terms/renewal": { ...VIEW, renewBy: "2999-01-02T08:00:00Z" },
    });
    expect(await screen.findByText("ines keeps it.")).toBeTruthy();
    expect(screen.getByText(/whose owner is in board/)).toBeTruthy();
    expect(screen.getByText("On tickets whose CI stands at ALD alone.")).toBeTruthy();
    expect(screen.getByText("The keeper is told when 3 calls in a row go badly.")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "All of it is right still" }));
    await waitFor(() => expect(screen.queryByRole("button", { name: "All of it is right still" })).toBeNull());
    expect(sent.map((s) => s.path)).toEqual(["/api/actions/lane.close/terms/renewal"]);
  });

  it("is changed by those who may alone", async () => {
    open({ ...VIEW, mayChange: false });
    await screen.findByText("ines keeps it.");
    expect(screen.queryByRole("button", { name: "Change…" })).toBeNull();
    expect(screen.queryByRole("button", { name: "All of it is right still" })).toBeNull();
  });

  it("without a keeper nobody is told, and what was refused stands at its field", async () => {
    const { sent, user } = open(VIEW, {
      "PUT /api/actions/lane.close/terms": new Refusal(422, "There is no group 'board'.", { where: "groups" }),
    });
    await user.click(await screen.findByRole("button", { name: "Change…" }));
    await pick(screen.getByLabelText("Kept by"), "nobody");
    expect(screen.queryByLabelText("Tell the keeper after bad calls in a row")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText("There is no group 'board'.")).toBeTruthy();
    expect(sent[0]?.body).toEqual({ groups: ["board"], services: [], sites: ["ALD"] });
    await user.click(screen.getByRole("button", { name: "Without board" }));
    expect(screen.queryByRole("button", { name: "Without board" })).toBeNull();
  });
});

describe("what one keeps", () => {
  it("is asked for on the desk: the first by name, more by their count", async () => {
    play({});
    const one = { key: "lane.close", name: "Close a lane", renewBy: "2026-12-08T08:00:00Z" };
    show(<KeptNotice kept={[one]} />, { as: ADA });
    expect((await screen.findByRole("link")).textContent).toContain("“Close a lane”");
  });

  it("is counted where it is more than one, beside the day the first is due", async () => {
    play({});
    const later = { key: "b", name: "Other", renewBy: "2026-12-18T08:00:00Z" };
    show(<KeptNotice kept={[later, { key: "lane.close", name: "Close a lane", renewBy: "2026-12-08T08:00:00Z" }]} />, {
      as: ADA,
    });
    const link = await screen.findByRole("link", { name: /Look again at 2 actions by Tue 8 Dec/ });
    expect(link.getAttribute("href")).toContain("lane.close");
  });
});
