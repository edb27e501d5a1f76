// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { play, show } from "../../testing/stage";
import { Finder } from "./Finder";

const WAYS = [
  { label: "Tickets", to: "/tickets", words: "incidents list" },
  { label: "Automation", to: "/desk", words: "connections secrets" },
];

function open() {
  play({
    "GET /api/find?text=gate": [
      { kind: "CI", id: "ALD-G2", title: "Gate 2", detail: "gate" },
      { kind: "ticket", id: "I-7", title: "Gate 2 stands open", detail: "logged · P2" },
    ],
    "GET /api/find?text=conn": [],
    "GET /api/find?text=zzz": [],
  });
  const closed = vi.fn();
  const { router } = show(<Finder open onOpenChange={closed} ways={WAYS} />, { at: "/workflows/x" });
  return { router, closed, user: userEvent.setup() };
}

const words = () => screen.findByPlaceholderText(/A ticket, workflow/);

describe("the finder", () => {
  it("goes to what was found, in the order in which it was", async () => {
    const { user, router, closed } = open();
    await user.type(await words(), "gate");
    await screen.findByText("Gate 2 stands open");
    expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual([
      "CIGate 2ALD-G2 · gate",
      "ticketGate 2 stands openI-7 · logged · P2",
    ]);
    await user.keyboard("{ArrowDown}{Enter}");
    await waitFor(() => expect(router.state.location.pathname).toBe("/tickets/I-7"));
    expect(closed).toHaveBeenCalledWith(false);
  });

  it("knows places by what people call what is there", async () => {
    const { user } = open();
    await words();
    expect(screen.getAllByRole("option")).toHaveLength(2);
    await user.type(await words(), "conn");
    await waitFor(() => expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual(["goAutomation"]));
    await user.clear(await words());
    await user.type(await words(), "zzz");
    expect(await screen.findByText("Nothing is called that.")).toBeTruthy();
  });
});
