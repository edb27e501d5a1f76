// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Field } from "../../api/types";
import { play, show } from "../../testing/stage";
import { FormEditor } from "./FormEditor";

const TWO: Field[] = [
  { name: "seen", label: "What you saw", type: "text", required: true },
  { name: "who", label: "Who has the key", type: "person", required: false },
];

function Editor({ asks, onSay }: { asks: boolean; onSay: (fields: Field[]) => void }) {
  const [fields, set] = useState(TWO);
  return (
    <FormEditor
      title="Asked with it"
      asks={asks}
      fields={fields}
      onChange={(next) => {
        onSay(next);
        set(next);
      }}
    />
  );
}

function edit(asks: boolean) {
  const said: Field[][] = [];
  play({});
  show(<Editor asks={asks} onSay={(fields) => said.push(fields)} />);
  return said;
}

describe("the editor of a form", () => {
  it("shows the form as people see it, with what helps to fill it in", async () => {
    const said = edit(true);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("What helps to fill in “What you saw”"), "Only what you saw yourself");
    await user.tab();
    expect(said.at(-1)?.[0]?.help).toBe("Only what you saw yourself");
    const seen = within(screen.getByRole("region", { name: "As people see it" }));
    expect(seen.getByText("Only what you saw yourself")).toBeTruthy();
    expect(seen.getByLabelText("What you saw (needed)")).toBeTruthy();
    expect(seen.getByRole("combobox", { name: "Who has the key" })).toBeTruthy();
  });

  it("moves fields, and the ends stay where they are", async () => {
    const said = edit(true);
    const user = userEvent.setup();
    expect((await screen.findByRole("button", { name: "What you saw further up" })).hasAttribute("disabled")).toBe(
      true,
    );
    await user.click(screen.getByRole("button", { name: "What you saw further down" }));
    expect(said.at(-1)?.map((f) => f.name)).toEqual(["who", "seen"]);
    expect(screen.getByRole("button", { name: "What you saw further down" }).hasAttribute("disabled")).toBe(true);
  });

  it("shows no form where nobody fills one in", async () => {
    edit(false);
    await screen.findByText("Asked with it");
    expect(screen.queryByRole("region", { name: "As people see it" })).toBeNull();
    expect(screen.queryByLabelText(/What helps/)).toBeNull();
  });
});
