// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Connection, ConnectionTested } from "../../api/types";
import { play, show } from "../../testing/stage";
import { TestDialog } from "./TestDialog";

const LEDGER: Connection = {
  key: "ledger",
  name: "Sales ledger",
  base: "postgresql://reader@db/sales",
  allowedHosts: [],
  secret: "sales",
};

const WELL: ConnectionTested = {
  reached: "yes",
  letIn: "yes",
  millis: 40,
  needs: [
    { action: "ledger.sales", name: "Read what a kiosk sold", needs: "select number from sale", says: "yes" },
    {
      action: "ledger.void",
      name: "Make a sale void",
      needs: "update sale set void = true",
      says: "no",
      why: "permission denied for table sale",
    },
  ],
};

it("tells who answers, who is let in, and what each action may do", async () => {
  play({ "POST /api/connections/ledger/test": WELL });
  show(<TestDialog connection={LEDGER} onClose={() => undefined} />);
  const found = await screen.findByLabelText("What was found out");
  expect(found.textContent).toContain("It answers, within 1 s.");
  expect(found.textContent).toContain("It lets us in with the secret sales.");
  expect(found.textContent).toContain("Read what a kiosk sold: it may");
  expect(found.textContent).toContain("Make a sale void: it may not");
  expect(found.textContent).toContain("permission denied for table sale");
});

it("says that nobody answers, nothing of being let in, and asks again", async () => {
  const answers: Record<string, unknown> = {
    "POST /api/connections/ledger/test": {
      reached: "no",
      letIn: "cannot say",
      why: "No connection to Sales ledger.",
      millis: 5_000,
      needs: [],
    },
  };
  play(answers);
  show(<TestDialog connection={LEDGER} onClose={() => undefined} />);
  const found = await screen.findByLabelText("What was found out");
  expect(found.textContent).toContain("Nobody answers.");
  expect(found.textContent).not.toContain("let us in");
  answers["POST /api/connections/ledger/test"] = WELL;
  fireEvent.click(screen.getByText("Test it again"));
  await waitFor(() => expect(screen.getByLabelText("What was found out").textContent).toContain("It lets us in"));
});
