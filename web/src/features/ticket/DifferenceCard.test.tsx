// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { AtPartner, Difference } from "../../api/types";
import { play, Refusal, show, ticket } from "../../testing/stage";
import { AtPartners } from "./AtPartners";
import { DifferenceCard } from "./DifferenceCard";

const DIFFERENCE: Difference = {
  id: "I-7/supplier/impact",
  field: "impact",
  label: "Impact",
  ours: "2",
  word: "C",
  theirs: 3,
  takeable: true,
  why: "Both have said something of it.",
  asked: { groups: ["suppliers-liaison"], people: [] },
  at: "2026-03-02T09:55:00Z",
};

const PARTNER: AtPartner = {
  partner: "supplier",
  name: "Lane supplier",
  id: "F-501",
  theirs: false,
  over: false,
  since: "2026-03-02T09:50:00Z",
  speaks: true,
  differences: [DIFFERENCE],
};

const SETTLE = "POST /api/tickets/I-7/partners/supplier/differences";
const SAY = "POST /api/tickets/I-7/partners/supplier/words";

describe("what a partner sees otherwise", () => {
  it("is settled with what was shown, and the reason", async () => {
    const sent = play({ [SETTLE]: null });
    show(<DifferenceCard difference={DIFFERENCE} partner={PARTNER} ticket="I-7" keys />);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText(/^Why/), "They see the log.");
    await user.click(screen.getByRole("button", { name: /Take theirs: 3/ }));
    expect(sent[0]?.body).toEqual({
      field: "impact",
      takesTheirs: true,
      ours: "2",
      word: "C",
      reason: "They see the log.",
    });
  });

  it("can only be held to where their word means nothing, also by key", async () => {
    const sent = play({ [SETTLE]: null });
    const melted = { ...DIFFERENCE, word: "melted", theirs: undefined, takeable: false };
    show(<DifferenceCard difference={melted} partner={PARTNER} ticket="I-7" keys />);
    await screen.findByText("melted");
    expect(screen.queryByRole("button", { name: /Take theirs/ })).toBeNull();
    const user = userEvent.setup();
    await user.keyboard("1");
    expect(sent).toEqual([]);
    await user.keyboard("2");
    expect(sent[0]?.body).toMatchObject({ takesTheirs: false, word: "melted" });
  });

  it("says why it was refused, and keeps the reason", async () => {
    play({ [SETTLE]: new Refusal(422, "It has changed since you looked.") });
    show(<DifferenceCard difference={DIFFERENCE} partner={PARTNER} ticket="I-7" keys={false} />);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText(/^Why/), "Because");
    await user.click(screen.getByRole("button", { name: /Keep ours: 2/ }));
    await screen.findByText(/It has changed since you looked/);
    expect((screen.getByLabelText(/^Why/) as HTMLInputElement).value).toBe("Because");
  });
});

describe("at partners", () => {
  it("keeps what is typed to them until it was taken", async () => {
    const routes: Record<string, unknown> = { [SAY]: new Refusal(503, "Not now.") };
    play(routes);
    show(<AtPartners ticket={ticket([], { partners: [PARTNER], mayWork: true })} />);
    const user = userEvent.setup();
    await user.click(await screen.findByRole("button", { name: "Say something…" }));
    await user.type(screen.getByLabelText("What they are to read"), "It squeaks.");
    await user.click(screen.getByRole("button", { name: "Say it to Lane supplier" }));
    await screen.findByText(/Not now/);
    expect((screen.getByLabelText("What they are to read") as HTMLTextAreaElement).value).toBe("It squeaks.");
    expect(sessionStorage.getItem("dastur-say-I-7-supplier")).toBe("It squeaks.");
  });

  it("offers nothing to say where nothing can be said", async () => {
    play({});
    show(
      <AtPartners
        ticket={ticket([], {
          partners: [PARTNER, { ...PARTNER, partner: "b", name: "Other", over: true, why: "They know it no longer." }],
          mayWork: false,
        })}
      />,
    );
    await screen.findByText("F-501", { exact: false, selector: "span" }).catch(() => screen.findAllByText("F-501"));
    expect(screen.queryByRole("button", { name: "Say something…" })).toBeNull();
    expect(screen.getByText(/No longer followed/)).toBeTruthy();
    expect(screen.getByText("They know it no longer.")).toBeTruthy();
  });
});
