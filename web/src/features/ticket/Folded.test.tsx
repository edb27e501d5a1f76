// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import type { Ticket } from "../../api/types";
import { ADA, play, show, ticket } from "../../testing/stage";
import { Folds, UnderBar } from "./Folded";

const CAUSE: Ticket["folds"][number] = {
  as: "caused by",
  byHand: false,
  number: "I-9",
  title: "Gateway is down",
  state: "logged",
  ended: false,
};

it("says what it stands under, how it comes back, and lets somebody take it out", async () => {
  const asked = play({ "POST /api/tickets/I-7/by-itself": { ticket: "I-7", seq: 9 } });
  show(<UnderBar ticket={ticket([], { under: CAUSE })} />, { as: ADA });
  const bar = await screen.findByRole("region", { name: "Stands under another" });
  expect(within(bar).getByRole("link", { name: "I-9" })).toBeDefined();
  expect(bar.textContent).toContain("restored for ten minutes");
  await userEvent.click(within(bar).getByRole("button", { name: "Look at it by itself" }));
  expect(asked.map((a) => `${a.method} ${a.path}`)).toContain("POST /api/tickets/I-7/by-itself");
});

it("says nothing of what stands by itself, and offers nothing to whoever only reads", async () => {
  play({});
  show(
    <>
      <UnderBar ticket={ticket([])} />
      <UnderBar ticket={ticket([], { number: "I-8", under: CAUSE, mayWork: false })} />
    </>,
    { as: ADA },
  );
  expect(await screen.findAllByRole("region")).toHaveLength(1);
  expect(screen.queryByRole("button")).toBeNull();
});

it("lists what stands under a cause", async () => {
  play({});
  show(<Folds ticket={ticket([], { folds: [{ ...CAUSE, as: "causes", number: "I-3" }, CAUSE] })} />, { as: ADA });
  const list = await screen.findByRole("region", { name: "Stand under this one" });
  expect(list.textContent).toContain("2 incidents follow");
  expect(within(list).getAllByRole("link")).toHaveLength(2);
});
