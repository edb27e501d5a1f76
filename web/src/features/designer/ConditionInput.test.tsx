// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import { DIRECTORY, pick, play, show } from "../../testing/stage";
import { ConditionInput } from "./ConditionInput";

const field = (name: string, type: string, choices?: string[]) => ({
  path: `ticket.${name}`,
  field: { name, label: name, type, required: false, ...(choices ? { choices } : {}) },
});

const CATALOGUE = {
  actions: [],
  ladders: [],
  paths: [
    field("impact", "whole number"),
    field("state", "text", ["logged", "restored"]),
    field("group", "group"),
    field("title", "text"),
    field("major", "yes or no"),
  ],
};

let said = "";

function Held({ value }: { value: string }) {
  const [text, setText] = useState(value);
  said = text;
  return <ConditionInput label="If" value={text} onChange={setText} />;
}

async function open(value: string) {
  said = value;
  play({ "GET /api/catalogue": CATALOGUE, "POST /api/catalogue/check": {} });
  show(<Held value={value} />);
  await screen.findByRole("group", { name: "If" });
  return userEvent.setup();
}

describe("a condition by rows", () => {
  it("stands as rows from the start, and an unfilled row says nothing", async () => {
    const user = await open("ticket.impact <= 2");
    expect(screen.getByLabelText("Operator").dataset.value).toBe("at most");
    expect(screen.getByLabelText<HTMLInputElement>("Value").value).toBe("2");
    await user.click(screen.getByRole("button", { name: "Add a row" }));
    expect(said).toBe("ticket.impact <= 2");
  });

  it("offers what a field's type allows: states to choose from, groups by name, and no ‘above’ for them", async () => {
    const user = await open("");
    await user.click(screen.getByRole("button", { name: "Add a row" }));
    await pick(screen.getByLabelText("Field"), "ticket.state");
    await pick(screen.getByLabelText("Value"), "restored");
    expect(said).toBe('ticket.state == "restored"');
    await user.click(screen.getByLabelText("Operator"));
    expect(screen.getAllByRole("option").map((o) => o.dataset.choice)).not.toContain("above");
    await user.keyboard("{Escape}");
    await pick(screen.getByLabelText("Field"), "ticket.group");
    expect(said).toBe("");
    await pick(screen.getByLabelText("Value"), "Duty managers");
    expect(said).toBe(`ticket.group == "${DIRECTORY.groups[0]?.id}"`);
  });

  it("takes several by choosing one after another", async () => {
    const user = await open('ticket.state in ["logged"]');
    await screen.findByRole("button", { name: "Leave logged out" });
    await pick(screen.getByLabelText("Value"), "restored");
    expect(said).toBe('ticket.state in ["logged", "restored"]');
    await user.click(screen.getByRole("button", { name: "Leave logged out" }));
    expect(said).toBe('ticket.state in ["restored"]');
  });

  it("compares with another value that is known", async () => {
    const user = await open("ticket.impact == 1");
    await user.click(screen.getByRole("button", { name: "with another value" }));
    expect(said).toBe("");
    await pick(screen.getByLabelText("Value"), "ticket.title");
    expect(said).toBe("ticket.impact == ticket.title");
  });

  it("keeps what rows cannot say in a row of its own, and shows all as an expression when asked", async () => {
    const user = await open("ticket.impact == 1 && size(ticket.title) > 3");
    const rows = within(screen.getByRole("group", { name: "If" }));
    expect(rows.getByLabelText<HTMLInputElement>("Expression").value).toBe("size(ticket.title) > 3");
    await user.click(screen.getByRole("button", { name: "as an expression" }));
    expect(screen.getByLabelText<HTMLTextAreaElement>("If").value).toBe("ticket.impact == 1 && size(ticket.title) > 3");
    await user.click(screen.getByRole("button", { name: "by rows" }));
    expect(said).toBe("ticket.impact == 1 && size(ticket.title) > 3");
  });
});
