// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { play, show } from "../../testing/stage";
import { PlanCiDialog, plansCis } from "./PlanCiDialog";

it("sends what is wished for, and leaves out what is blank", async () => {
  const sent = play({ "POST /api/tickets/R-7/planned-ci": { ticket: "R-7", seq: 4 } });
  let closed = false;
  show(
    <PlanCiDialog
      ticket="R-7"
      onClose={() => {
        closed = true;
      }}
    />,
  );
  fireEvent.change(await screen.findByLabelText(/What it is to be called/), { target: { value: "crew-7" } });
  fireEvent.change(screen.getByLabelText(/^What it is(?! to)/), { target: { value: "machine" } });
  fireEvent.change(screen.getByLabelText("Where it stands"), { target: { value: "Mooring Data Room" } });
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: "x" } });
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: "" } });
  fireEvent.click(screen.getByText("Plan it"));
  await waitFor(() => expect(closed).toBe(true));
  expect(sent.map((s) => s.body)).toEqual([{ id: "crew-7", kind: "machine", values: { site: "Mooring Data Room" } }]);
});

it("keeps what is typed of it until it is sent", async () => {
  play({ "POST /api/tickets/R-7/planned-ci": { ticket: "R-7", seq: 4 } });
  const dialog = () => <PlanCiDialog ticket="R-7" onClose={() => undefined} />;
  show(dialog());
  fireEvent.change(await screen.findByLabelText(/What it is to be called/), { target: { value: "crew-7" } });
  fireEvent.change(screen.getByLabelText(/^What it is(?! to)/), { target: { value: "machine" } });
  fireEvent.change(screen.getByLabelText("Where it stands"), { target: { value: "Mooring Data Room" } });
  cleanup();
  show(dialog());
  expect(((await screen.findByLabelText("Where it stands")) as HTMLInputElement).value).toBe("Mooring Data Room");
  fireEvent.click(screen.getByText("Plan it"));
  await waitFor(() => expect(sessionStorage.getItem("dastur-wish-R-7")).toBeNull());
});

it.each([
  ["request", false, true],
  ["change", false, true],
  ["change", true, false],
  ["incident", false, false],
] as const)("is offered on a %s (ended: %s): %s", (kind, ended, offered) =>
  expect(plansCis({ kind, ended })).toBe(offered),
);
