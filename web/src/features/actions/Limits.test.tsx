// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Action, Field } from "../../api/types";
import { ADA, play, show } from "../../testing/stage";
import { Limits, limitsFor, limitWords } from "./Limits";

const field = (name: string, type: Field["type"]): Field => ({ name, label: name, type, required: false });
const INPUTS = [field("count", "whole number"), field("path", "text"), field("gate", "CI"), field("when", "time")];

function Editor({ onChange }: { onChange: (limits: Action["limits"]) => void }) {
  const [draft, setDraft] = useState({ inputs: INPUTS } as unknown as Action);
  return (
    <Limits
      draft={draft}
      at={() => undefined}
      set={(change) => {
        setDraft({ ...draft, ...change });
        onChange(change.limits);
      }}
    />
  );
}

describe("limits of inputs", () => {
  it("are set by what fits the type, and go when nothing is left of them", async () => {
    play({});
    let last: Action["limits"];
    show(<Editor onChange={(l) => (last = l)} />, { as: ADA });
    await userEvent.type(await screen.findByLabelText("count: at most"), "20");
    expect(last).toEqual({ count: { most: 20 } });
    await userEvent.type(screen.getByLabelText("gate: of the kinds"), "gate, kiosk");
    expect(last).toEqual({ count: { most: 20 }, gate: { kinds: ["gate", "kiosk"] } });
    await userEvent.clear(screen.getByLabelText("count: at most"));
    await userEvent.clear(screen.getByLabelText("gate: of the kinds"));
    expect(last).toBeUndefined();
    expect(screen.queryByLabelText(/when/)).toBeNull();
  });

  it("follow the inputs: of one that is gone or of another type nothing stays", () => {
    const limits = { count: { most: 3 }, path: { matches: "a+" }, gone: { most: 1 } };
    expect(limitsFor(INPUTS, limits)).toEqual({ count: { most: 3 }, path: { matches: "a+" } });
    expect(limitsFor([field("count", "text")], limits)).toBeUndefined();
  });

  it("are told in words", () => {
    expect(limitWords({ least: 1, most: 20 })).toBe("at least 1, at most 20");
    expect(limitWords({ kinds: ["gate"], sites: ["ALD", "GNQ"] })).toBe("a gate, at ALD or GNQ");
  });
});
