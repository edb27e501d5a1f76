// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Field } from "../../api/types";
import { ADA, play, show } from "../../testing/stage";
import { FormFields, type FormValues } from "./FormFields";
import { instantOf, localOf, meantBy, textOf } from "./fieldValues";

const field = (type: Field["type"], more: Partial<Field> = {}): Field => ({
  name: "value",
  label: "Value",
  type,
  required: false,
  ...more,
});

function Form({ fields, values, onSay }: { fields: Field[]; values: FormValues; onSay: (values: FormValues) => void }) {
  const [now, set] = useState(values);
  return (
    <FormFields
      fields={fields}
      values={now}
      onChange={(next) => {
        onSay(next);
        set(next);
      }}
    />
  );
}

function form(fields: Field[], values: FormValues = {}) {
  const said: FormValues[] = [];
  play({
    "GET /api/cis?text=": [{ id: "ALD-G1", name: "Gate 1 at Alder Pier", kind: "gate" }],
    "GET /api/cis?text=g1": [{ id: "ALD-G1", name: "Gate 1 at Alder Pier", kind: "gate" }],
  });
  show(<Form fields={fields} values={values} onSay={(now) => said.push(now)} />, { as: ADA });
  return said;
}

describe("a field of a form", () => {
  it("lets people, groups and services be chosen by name, and keeps their short names", async () => {
    const said = form([field("person")]);
    const user = userEvent.setup();
    await user.click(await screen.findByRole("combobox", { name: "Value" }));
    const options = await screen.findAllByRole("option");
    const named = options.find((o) => o.textContent?.includes("Teo Marchetti"));
    expect(named).toBeTruthy();
    await user.click(named as HTMLElement);
    expect(said.at(-1)).toEqual({ value: "teo" });
  });

  it("asks the server for CIs by what is typed", async () => {
    const said = form([field("CI")]);
    const user = userEvent.setup();
    await user.click(await screen.findByRole("combobox", { name: "Value" }));
    await user.keyboard("g1");
    await user.click(await screen.findByRole("option", { name: /Gate 1 at Alder Pier/ }));
    expect(said.at(-1)).toEqual({ value: "ALD-G1" });
  });

  it("takes a time as people write it and keeps an instant", async () => {
    const said = form([field("time")]);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("Value"), "1.12.2026 8:00");
    expect(said.at(-1)).toEqual({ value: instantOf("2026-12-01T08:00") });
  });

  it("keeps a line for each of a list, and none for what is blank", async () => {
    const said = form([field("list")]);
    const user = userEvent.setup();
    const box = (await screen.findByLabelText("Value")) as HTMLTextAreaElement;
    await user.type(box, "ALD-G1{Enter}{Enter}ALD-G2{Enter}");
    expect(box.value).toBe("ALD-G1\n\nALD-G2\n");
    expect(said.at(-1)).toEqual({ value: ["ALD-G1", "ALD-G2"] });
    await user.clear(box);
    expect(said.at(-1)).toEqual({});
  });

  it("says what helps, also beside yes and no, and that it is needed", async () => {
    form([field("yes or no", { help: "Look twice.", required: true })]);
    expect(await screen.findByText("Look twice.")).toBeTruthy();
    expect(screen.getByRole("checkbox", { name: "Value (needed)" })).toBeTruthy();
  });

  it("shows what was chosen and is no longer there", async () => {
    form([field("group")], { value: "night-owls" });
    expect(within(await screen.findByRole("combobox", { name: "Value" })).getByText(/night-owls \(no longer there\)/));
  });
});

describe("values as text", () => {
  it.each([
    ["whole number", "3", 3],
    ["yes or no", "true", true],
    ["yes or no", "false", false],
    ["list", "a\n\n b ", ["a", "b"]],
    ["text", "3", "3"],
    ["text", "", undefined],
  ] as const)("mean %s %j as %j", (type, text, value) => {
    expect(meantBy(field(type), text)).toEqual(value);
  });

  it("come back as they were", () => {
    expect(textOf(["a", "b"])).toBe("a\nb");
    expect(textOf(undefined)).toBe("");
    expect(textOf(false)).toBe("false");
    expect(localOf(instantOf("2026-12-01T08:05"))).toBe("2026-12-01T08:05");
    expect(localOf("soon")).toBe("soon");
  });
});
