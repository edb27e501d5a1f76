// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { play, Refusal, show } from "../../testing/stage";
import { TokensDialog } from "./TokensDialog";

const REPORTS = {
  id: "t-1",
  name: "Reports",
  createdAt: "2026-03-01T08:00:00Z",
  scope: "read",
  expiresAt: "2126-03-01T08:00:00Z",
};

describe("one's own API tokens", () => {
  it("are made for reading and 90 days unless said otherwise, and shown once", async () => {
    const answers: Record<string, unknown> = {
      "GET /api/tokens": [],
      "POST /api/tokens": { id: "t-1", name: "Reports", token: "secret-once", expiresAt: REPORTS.expiresAt },
    };
    const sent = play(answers);
    show(<TokensDialog onClose={() => undefined} />);
    const user = userEvent.setup();
    await screen.findByText("You have none.");
    await user.type(screen.getByLabelText("For what"), "Reports");
    answers["GET /api/tokens"] = [REPORTS];
    await user.click(screen.getByRole("button", { name: "Make it" }));
    expect(await screen.findByText("secret-once")).toBeTruthy();
    expect(sent[0]?.body).toEqual({ name: "Reports", scope: "read", days: 90 });
    expect(await screen.findByRole("button", { name: "End Reports" })).toBeTruthy();
  });

  it("keep what was typed when one cannot be made", async () => {
    play({ "GET /api/tokens": [], "POST /api/tokens": new Refusal(422, "A token lasts 1 to 366 days.") });
    show(<TokensDialog onClose={() => undefined} />);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("For what"), "Reports");
    await user.click(screen.getByRole("button", { name: "Make it" }));
    expect(await screen.findByText("A token lasts 1 to 366 days.")).toBeTruthy();
    expect((screen.getByLabelText("For what") as HTMLInputElement).value).toBe("Reports");
  });

  it("end by one press", async () => {
    const answers: Record<string, unknown> = { "GET /api/tokens": [REPORTS], "DELETE /api/tokens/t-1": null };
    const sent = play(answers);
    show(<TokensDialog onClose={() => undefined} />);
    await screen.findByText("Reports");
    answers["GET /api/tokens"] = [];
    await userEvent.setup().click(screen.getByRole("button", { name: "End Reports" }));
    await waitFor(() => expect(screen.getByText("You have none.")).toBeTruthy());
    expect(sent.map((s) => `${s.method} ${s.path}`)).toEqual(["DELETE /api/tokens/t-1"]);
  });
});
