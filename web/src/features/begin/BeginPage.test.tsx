// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { ADA, play, Refusal, show } from "../../testing/stage";
import { BeginPage } from "./BeginPage";

const SENDS = { mail: { here: true, from: "desk@quay.example" } };

const NOTHING = {
  "GET /api/channels": { mail: { here: false, from: "dastur@localhost.localdomain" } },
  "GET /api/people": { people: [{ id: "ada" }], groups: [] },
  "GET /api/services": { services: [] },
  "GET /api/workflows": [],
  "GET /api/tickets?open=false": { items: [], more: false },
  "GET /api/gallery": [
    { key: "thing", name: "A thing", purpose: "It is got.", kind: "request", steps: 7, decides: true },
  ],
  "GET /api/calendars": [],
};

function open(answers: Record<string, unknown> = {}) {
  play({ ...NOTHING, ...answers });
  show(<BeginPage />, { as: ADA });
  return userEvent.setup();
}

const current = () =>
  screen
    .getAllByRole("listitem")
    .find((li) => li.ariaCurrent === "step")
    ?.getAttribute("aria-label");

describe("the first steps", () => {
  it("lead one after the other, by what is there already", async () => {
    open({
      "GET /api/people": { people: [{ id: "ada" }, { id: "mira" }], groups: [{ id: "desk" }] },
      "GET /api/services": { services: [{ id: "gates" }] },
      "GET /api/workflows": [{ key: "draft" }],
      "GET /api/channels": SENDS,
    });
    await screen.findByText("4 of 6 steps are behind you; each can be left for later");
    expect(current()).toBe("A first workflow");
  });

  it("does not ask those how people are told who do not set it", async () => {
    open({
      "GET /api/people": { people: [{ id: "ada" }, { id: "mira" }], groups: [] },
      "GET /api/channels": new Refusal(403, "That is set by administrators."),
    });
    await screen.findByText("2 of 6 steps are behind you; each can be left for later");
    expect(current()).toBe("Which groups there are");
  });

  it("can be left for later and taken up again; both are kept", async () => {
    const user = open();
    const people = within(await screen.findByRole("listitem", { name: "Who works here" }));
    await user.click(people.getByText("leave it for later"));
    expect(current()).toBe("How people are told");
    expect(localStorage.getItem("dastur-begin-skipped")).toBe("people");
    await user.click(people.getByText("do it now"));
    expect(current()).toBe("Who works here");
  });

  it("asks for groups before a workflow of the gallery is made, and says so where there is none", async () => {
    const user = open({
      "GET /api/people": { people: [{ id: "ada" }, { id: "mira" }], groups: [{ id: "desk" }] },
      "GET /api/services": { services: [{ id: "gates" }] },
      "GET /api/channels": SENDS,
    });
    await user.click(await screen.findByText("A thing"));
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByLabelText("Who does the work")).toBeTruthy();
    expect(dialog.getByLabelText("Who decides")).toBeTruthy();
    expect(dialog.getByRole<HTMLButtonElement>("button", { name: "Make it" }).disabled).toBe(true);
  });

  it("says what is wrong where it cannot be read", async () => {
    open({ "GET /api/people": new Refusal(403, "You may not see people.") });
    expect(await screen.findByText(/You may not see people/)).toBeTruthy();
  });
});
