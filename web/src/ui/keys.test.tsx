// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { show } from "../testing/stage";
import { useKeys } from "./keys";
import { Select } from "./kit";

function Page({ act }: { act: (key: string) => void }) {
  useKeys({ enter: () => act("enter"), arrowdown: () => act("down"), x: () => act("x") });
  return (
    <>
      <button type="button">Publish</button>
      <div>
        <button type="button" data-step="look">
          Look at the gate
        </button>
      </div>
      <Select label="Priority" options={[{ value: "1", label: "high" }]} value="1" onChange={() => undefined} />
    </>
  );
}

it("leaves to a control what presses or opens it, and takes all else", async () => {
  const act = vi.fn();
  show(<Page act={act} />);
  const publish = await screen.findByText("Publish");
  // Not taken: the browser goes on and presses the button.
  expect(fireEvent.keyDown(publish, { key: "Enter" })).toBe(true);
  fireEvent.keyDown(screen.getByRole("combobox", { name: "Priority" }), { key: "ArrowDown" });
  expect(act).not.toHaveBeenCalled();
  fireEvent.keyDown(screen.getByText("Look at the gate"), { key: "Enter" });
  expect(act).toHaveBeenLastCalledWith("enter");
});

it("takes other keys wherever one stands", async () => {
  const act = vi.fn();
  show(<Page act={act} />);
  fireEvent.keyDown(await screen.findByText("Publish"), { key: "x" });
  fireEvent.keyDown(document.body, { key: "ArrowDown" });
  expect(act.mock.calls.flat()).toEqual(["x", "down"]);
});
