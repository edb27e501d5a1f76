// @vitest-environment jsdom
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import "../testing/stage";
import { When } from "./When";

function Held({ start = "", onChange = () => {} }: { start?: string; onChange?: (v: string) => void }) {
  const [value, setValue] = useState(start);
  return (
    <form aria-label="form">
      <When
        label="From"
        value={value}
        onChange={(v) => {
          setValue(v);
          onChange(v);
        }}
      />
      <button type="button" onClick={() => setValue("2027-01-04T08:00")}>
        Elsewhere
      </button>
    </form>
  );
}

const field = () => screen.getByLabelText<HTMLInputElement>("From");
const form = () => screen.getByRole<HTMLFormElement>("form");

describe("a time as people write it", () => {
  it("says what it understood, and writes it plainly once one leaves the field", async () => {
    const user = userEvent.setup();
    const changed = vi.fn();
    render(<Held onChange={changed} />);
    await user.type(field(), "4 jan 2027 8:00");
    expect(changed.mock.lastCall).toEqual(["2027-01-04T08:00"]);
    expect(screen.getByText(/Monday,? 4 January 2027, 08:00/)).toBeTruthy();
    await user.tab();
    expect(field().value).toBe("2027-01-04 08:00");
  });

  it("sends nothing while it does not understand, and keeps what was typed", async () => {
    const user = userEvent.setup();
    render(<Held />);
    await user.type(field(), "when it suits");
    expect(screen.getByText(/Not understood/)).toBeTruthy();
    expect(form().checkValidity()).toBe(false);
    await user.tab();
    expect(field().value).toBe("when it suits");
    await user.clear(field());
    expect(form().checkValidity()).toBe(true);
  });

  it("shows what was set elsewhere", async () => {
    const user = userEvent.setup();
    render(<Held start="2026-12-01T08:00" />);
    expect(field().value).toBe("2026-12-01 08:00");
    await user.click(screen.getByRole("button", { name: "Elsewhere" }));
    expect(field().value).toBe("2027-01-04 08:00");
  });
});
