// @vitest-environment jsdom
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { ADA, play, show } from "../../testing/stage";
import { Onlookers } from "./Onlookers";

const PATH = "/api/tickets/I-1/onlookers";

describe("who else looks", () => {
  it("says who looks and who writes", async () => {
    play({
      [`POST ${PATH}`]: {
        others: [
          { person: "runa", writes: true },
          { person: "teo", writes: false },
          { person: "sem", writes: false },
          { person: "liv", writes: false },
          { person: "noor", writes: false },
        ],
      },
    });
    show(<Onlookers ticket="I-1" />, { as: ADA });
    expect(await screen.findByText(/writes here/)).toBeTruthy();
    expect(screen.getAllByText(/looks at this too/)).toHaveLength(2);
    expect(screen.getByText("and 2 more")).toBeTruthy();
  });

  it("tells that one writes at the first key, not when one searches, and that one has gone", async () => {
    const sent = play({ [`POST ${PATH}`]: { others: [] } });
    show(
      <>
        <Onlookers ticket="I-1" />
        <input type="search" aria-label="Search" />
        <textarea aria-label="Note" />
      </>,
      { as: ADA },
    );
    const user = userEvent.setup();
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).toEqual({ writes: false, leaves: false });
    await user.type(screen.getByLabelText("Search"), "gate");
    expect(sent).toHaveLength(1);
    await user.type(screen.getByLabelText("Note"), "It is shut");
    expect(sent.slice(1).map((s) => s.body)).toEqual([{ writes: true, leaves: false }]);
    cleanup();
    await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ leaves: true }));
  });

  it("tells nobody of an administrator who sees Dastur as somebody else", async () => {
    const sent = play({ [`POST ${PATH}`]: { others: [] } });
    show(<Onlookers ticket="I-1" />, { as: { ...ADA, seenBy: "halvard" } as typeof ADA });
    await new Promise((done) => setTimeout(done, 20));
    expect(sent).toHaveLength(0);
  });
});
