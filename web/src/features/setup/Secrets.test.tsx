// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { ADA, play, Refusal, show } from "../../testing/stage";
import { Secrets } from "./Secrets";

const HALVARD = { ...ADA, id: "halvard", name: "Halvard Quist", roles: ["administrator"] } as typeof ADA;
const ALL = [
  { name: "standins", at: "2026-03-02T08:00:00Z", usedBy: ["Kiosk manager", "Lane controller"] },
  { name: "spare", at: "2026-03-02T08:00:00Z", by: "halvard", usedBy: [] },
];

describe("secrets", () => {
  it("says who uses each, and lets only unused ones be removed", async () => {
    play({ "GET /api/secrets": ALL });
    show(<Secrets />, { as: HALVARD });
    expect(await screen.findByText(/used by Kiosk manager, Lane controller/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Remove spare" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Remove standins" })).toBeNull();
  });

  it("sends a new value, which is typed unseen, and shows what is wrong with the name", async () => {
    const answers: Record<string, unknown> = {
      "GET /api/secrets": ALL,
      "PUT /api/secrets/1-bad": new Refusal(422, "A secret's name begins with a letter.", { where: "name" }),
      "PUT /api/secrets/supplier": null,
    };
    const sent = play(answers);
    show(<Secrets />, { as: HALVARD });
    const user = userEvent.setup();
    await user.click(await screen.findByRole("button", { name: "New secret" }));
    const dialog = within(await screen.findByRole("dialog"));
    const value = dialog.getByLabelText(/^Value/) as HTMLInputElement;
    expect(value.type).toBe("password");
    await user.type(dialog.getByLabelText(/^Name/), "1-bad");
    await user.type(value, "t0ken");
    await user.click(dialog.getByRole("button", { name: "Keep it" }));
    expect(await dialog.findByText("A secret's name begins with a letter.")).toBeTruthy();
    await user.clear(dialog.getByLabelText(/^Name/));
    await user.type(dialog.getByLabelText(/^Name/), "supplier");
    await user.click(dialog.getByRole("button", { name: "Keep it" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(sent.map((s) => s.body)).toContainEqual({ value: "t0ken" });
  });
});
