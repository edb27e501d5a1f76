// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Step, Version } from "../../api/types";
import { held, pick, play, show } from "../../testing/stage";
import { Assignments } from "./Assignments";

const field = (name: string, label: string, type: string, more: object = {}) => ({
  path: `ticket.${name}`,
  field: { name, label, type, required: false, ...more },
});

const CATALOGUE = {
  paths: [
    field("state", "State", "choice"),
    field("group", "Group", "group"),
    field("impact", "Impact", "whole number"),
    field("major", "Major", "yes or no"),
    field("cause", "Cause", "text"),
    field("ci", "CI", "CI"),
  ],
  actions: [],
  ladders: [],
};

const LOOK = {
  id: "look",
  name: "Look at the gate",
  kind: "task",
  form: [{ name: "seen", label: "What was seen", type: "text", required: false }],
  ways: {},
};

type Update = Extract<Step, { kind: "update" }>;

function Held({ start, version, onSet }: { start: Update; version: Version; onSet: (set: Update["set"]) => void }) {
  const [now, setNow] = useState(start);
  return (
    <Assignments
      step={now}
      version={version}
      onChange={(s) => {
        setNow(s as Update);
        onSet((s as Update).set);
      }}
    />
  );
}

function open(set: Update["set"]) {
  const kept: { now: Update["set"] } = { now: set };
  play({
    "GET /api/catalogue": CATALOGUE,
    "POST /api/catalogue/check": {},
    "GET /api/cis?text=": [{ id: "ALD-G2", name: "Gate 2", kind: "gate" }],
  });
  const step = { id: "note", name: "Note", kind: "update", set, ways: {} } as unknown as Update;
  const version = { startForm: [], vars: [], conditions: {}, body: { steps: [LOOK, step] } } as unknown as Version;
  show(
    <Held
      start={step}
      version={version}
      onSet={(now) => {
        kept.now = now;
      }}
    />,
  );
  return { kept, user: userEvent.setup() };
}

const way = () => screen.getByRole("combobox", { name: "to" });
const value = () => screen.getByRole("combobox", { name: "Value" });

describe("a value that an update sets", () => {
  it("is chosen by the field's type, and no quote is typed", async () => {
    const { kept, user } = open([{ target: "ticket.group", text: "" }]);
    await screen.findByText(/^(Group|Cause)$/);
    await pick(value(), "managers");
    expect(kept.now).toEqual([{ target: "ticket.group", text: "managers" }]);
    expect(value().textContent).toBe("Duty managers");
    await pick(screen.getByRole("combobox", { name: "Set" }), "ticket.major");
    await pick(value(), "yes");
    expect(kept.now[0]).toMatchObject({ target: "ticket.major", value: "true" });
    await pick(screen.getByRole("combobox", { name: "Set" }), "ticket.impact");
    const number = screen.getByRole("spinbutton", { name: "Value" });
    await user.clear(number);
    await user.type(number, "2");
    expect(kept.now[0]).toMatchObject({ value: "2" });
    await pick(screen.getByRole("combobox", { name: "Set" }), "ticket.ci");
    await pick(value(), "ALD-G2");
    expect(kept.now[0]).toMatchObject({ target: "ticket.ci", text: "ALD-G2" });
  });

  it("is taken from an earlier step by its name, with what stands in for it", async () => {
    const { kept, user } = open([{ target: "ticket.cause", text: "" }]);
    await screen.findByText(/^(Group|Cause)$/);
    await pick(way(), "known");
    await pick(screen.getByRole("combobox", { name: "Which" }), "steps.look.seen");
    expect(screen.getByRole("combobox", { name: "Which" }).textContent).toBe("What was seen (Look at the gate)");
    expect(kept.now[0]).toMatchObject({ value: "steps.look.seen" });
    await user.type(screen.getByLabelText("If there is none"), "nothing");
    expect(kept.now[0]).toMatchObject({ value: 'steps.look.seen ?? "nothing"' });
  });

  it("is a text into which values are put without typing how", async () => {
    const { kept, user } = open([{ target: "ticket.cause", text: "" }]);
    await screen.findByText(/^(Group|Cause)$/);
    await pick(way(), "words");
    await user.type(screen.getByLabelText("Text"), "Seen:");
    await pick(screen.getByRole("combobox", { name: "Put a value in" }), "steps.look.seen");
    expect(kept.now).toEqual([{ target: "ticket.cause", text: "Seen: {{ steps.look.seen }}" }]);
    expect(held(way())).toBe("words");
  });

  it("stays the expression that somebody writes, letter by letter", async () => {
    const { kept, user } = open([{ target: "ticket.cause", text: "" }]);
    await screen.findByText(/^(Group|Cause)$/);
    await pick(way(), "expression");
    const code = screen.getByRole<HTMLTextAreaElement>("textbox", { name: "Value" });
    await user.type(code, "'a' + 'b'");
    expect(code.value).toBe("'a' + 'b'");
    expect(kept.now[0]).toMatchObject({ value: "'a' + 'b'" });
    expect(held(way())).toBe("expression");
  });
});
