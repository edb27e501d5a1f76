// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { ADA, MIRA, play, show, ticket } from "../../testing/stage";
import { TestBar } from "./TestBar";

const TEST = { by: ADA.id, until: "2026-12-03T01:47:00Z" };

it.each([
  { as: ADA, ended: false, says: "You stand for everybody who would be asked or told" },
  { as: MIRA, ended: false, says: "Ada Brandvold stands for everybody" },
  { as: MIRA, ended: true, says: "It is over." },
])("says to $as.id what a test is", async ({ as, ended, says }) => {
  play({});
  show(<TestBar ticket={ticket([], { test: TEST, ended })} />, { as });
  const bar = await screen.findByRole("region", { name: "A test" });
  await waitFor(() => expect(bar.textContent).toContain(says));
  expect(bar.textContent?.includes("It ends by itself Thu 3 Dec")).toBe(!ended);
});

it("says nothing of a ticket in earnest", async () => {
  play({});
  show(
    <>
      <TestBar ticket={ticket([])} />
      <p>here</p>
    </>,
    { as: ADA },
  );
  await screen.findByText("here");
  expect(screen.queryByRole("region")).toBeNull();
});
