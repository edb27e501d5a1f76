// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { ADA, play, Refusal, show } from "../../testing/stage";
import { EveryTrigger } from "./EveryTrigger";

const look = (name: string, started: boolean, why: string) => ({
  trigger: `t-${name}`,
  workflow: name,
  name,
  started,
  why,
});

describe("every trigger for a signal", () => {
  it("is asked for by hand, says what would be and what is otherwise than then", async () => {
    play({
      "GET /api/signals/s1/triggers": {
        looks: [look("Frozen", true, "'Boards' says: dark"), look("Gates", false, "it listens to another source")],
        differs: ["Frozen"],
      },
    });
    show(<EveryTrigger id="s1" />, { as: ADA });
    await userEvent.click(await screen.findByRole("button", { name: "Every trigger, as it stands now…" }));
    expect(await screen.findByText("All 2 triggers that listen to signals")).toBeTruthy();
    expect(screen.getByRole("status").textContent).toBe("Otherwise than then: Frozen.");
    expect(screen.getByText(/would start, because/)).toBeTruthy();
    expect(screen.getByText(/would not start:/)).toBeTruthy();
  });

  it("says why there is none", async () => {
    play({ "GET /api/signals/s1/triggers": new Refusal(409, "Its source is there no more.") });
    show(<EveryTrigger id="s1" />, { as: ADA });
    await userEvent.click(await screen.findByRole("button", { name: "Every trigger, as it stands now…" }));
    expect(await screen.findByText("Its source is there no more.")).toBeTruthy();
  });
});
