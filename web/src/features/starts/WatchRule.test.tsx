// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Field, WatchBody } from "../../api/types";
import { play, show } from "../../testing/stage";
import { Rule, TryIt } from "./WatchRule";

const GIVES = [{ name: "kiosks", label: "Kiosks", type: "list" }] as Field[];
const said: string[] = [];

function OfRows({ first }: { first: string }) {
  const [rule, setRule] = useState(first);
  return (
    <Rule
      label="Something is the matter when"
      rows
      rule={rule}
      gives={GIVES}
      onChange={(next) => {
        said.push(next);
        setRule(next);
      }}
    />
  );
}

describe("a rule about each row", () => {
  it("is written member by member, and is none while it names nothing", async () => {
    play({});
    show(<OfRows first="" />);
    const member = await screen.findByLabelText("Something is the matter when: member of the row");
    const than = screen.getByLabelText("Something is the matter when: than");
    fireEvent.change(than, { target: { value: "20" } });
    expect(said.at(-1)).toBe("");
    fireEvent.change(member, { target: { value: "met res" } });
    expect(said.at(-1)).toBe("row.metres > 20");
    fireEvent.change(than, { target: { value: "red" } });
    expect(said.at(-1)).toBe('row.metres > "red"');
  });

  it("that is more than one comparison stays an expression", async () => {
    play({});
    show(<OfRows first="row.metres < read.least" />);
    const code = await screen.findByLabelText<HTMLInputElement>("Something is the matter when: expression");
    expect(code.value).toBe("row.metres < read.least");
  });

  it("says, looked at once, how many rows there are and which it holds for", async () => {
    const path = "/api/watches/kiosk-paper/readings";
    play({
      [`POST ${path}`]: { at: "", said: "holds", calm: false, values: { rows: 12, hold: "kiosk-02, kiosk-08" } },
    });
    const draft = { name: "Paper", each: { list: "kiosks", known: "kiosk" } } as WatchBody;
    show(<TryIt path={path} draft={draft} gives={GIVES} />);
    fireEvent.click(await screen.findByRole("button", { name: "Look once" }));
    expect(await screen.findByText(/Of 12 rows: kiosk-02, kiosk-08/)).toBeTruthy();
  });
});
