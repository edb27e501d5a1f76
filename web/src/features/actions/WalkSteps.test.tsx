// @vitest-environment jsdom
import { fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import { pick } from "../../testing/stage";
import { WalkSteps } from "./WalkSteps";

let written: string | undefined;

function Held({ body }: { body?: string }) {
  const [now, setNow] = useState(body);
  return (
    <WalkSteps
      body={now}
      onChange={(next) => {
        written = next;
        setNow(next);
      }}
    />
  );
}

describe("the editor of a walk", () => {
  it("fills in sentences, changes their kind, moves and leaves out", async () => {
    render(<Held body='[{"press": "Buy"}]' />);
    fireEvent.click(screen.getByRole("button", { name: "Add a step" }));
    await pick(screen.getByLabelText("Step 2"), "Read");
    fireEvent.change(screen.getByLabelText("Step 2: what stands beside"), { target: { value: "Number" } });
    fireEvent.change(screen.getByLabelText("Step 2: as"), { target: { value: "number" } });
    expect(JSON.parse(written ?? "")).toEqual([{ press: "Buy" }, { read: "Number", as: "number" }]);

    fireEvent.click(screen.getByRole("button", { name: "Move step 2 up" }));
    expect(JSON.parse(written ?? "").map((s: object) => Object.keys(s)[0])).toEqual(["read", "press"]);
    fireEvent.click(screen.getByRole("button", { name: "Leave out step 1" }));
    fireEvent.click(screen.getByRole("button", { name: "Leave out step 1" }));
    expect(written).toBeUndefined();
    expect(screen.getByText(/None yet/)).toBeTruthy();
  });

  it("shows what it cannot tell in sentences as it stands, and loses nothing of it", () => {
    render(<Held body='[{"jump": "x"}]' />);
    expect((screen.getByLabelText("Steps (JSON)") as HTMLTextAreaElement).value).toBe('[{"jump": "x"}]');
  });
});
