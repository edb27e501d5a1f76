// @vitest-environment jsdom
import { fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { held, pick } from "../testing/stage";
import { Select } from "./Select";

const FEW = [
  { value: "", label: "nobody" },
  { value: "ada", label: "Ada Brandvold" },
  { value: "teo", label: "Teo Marchetti", detail: "duty" },
];
const MANY = Array.from({ length: 130 }, (_, i) => ({ value: `p${i}`, label: `Person ${i}` }));

function Held({
  options = FEW,
  onChange = () => {},
  required,
}: {
  options?: typeof FEW;
  onChange?: (v: string) => void;
  required?: boolean;
}) {
  const [value, setValue] = useState("");
  return (
    <form aria-label="form">
      <Select
        label="Who"
        options={options}
        value={value}
        required={required}
        onChange={(v) => {
          setValue(v);
          onChange(v);
        }}
      />
      <button type="submit">Send</button>
    </form>
  );
}

const who = () => screen.getByRole("combobox", { name: "Who" });

describe("a field with choices", () => {
  it("says what is chosen, and changes it by a click", async () => {
    render(<Held />);
    expect(who().textContent).toBe("nobody");
    await pick(who(), "Teo Marchettiduty");
    expect(who().textContent).toBe("Teo Marchetti");
    expect(held(who())).toBe("teo");
    expect(screen.queryByRole("option")).toBeNull();
  });

  it("is chosen from by keys alone, and left as it was by Esc", async () => {
    const user = userEvent.setup();
    const changed = vi.fn();
    render(<Held onChange={changed} />);
    who().focus();
    await user.keyboard("{ArrowDown}");
    await user.keyboard("{ArrowDown}{Enter}");
    expect(changed.mock.calls).toEqual([["ada"]]);
    await user.keyboard("{Enter}");
    expect(await screen.findAllByRole("option")).toHaveLength(3);
    await user.keyboard("{ArrowDown}{Escape}");
    expect(screen.queryByRole("option")).toBeNull();
    expect(held(who())).toBe("ada");
    expect(changed).toHaveBeenCalledTimes(1);
  });

  it("leaves the keyboard with what was pressed beside it, and takes it back otherwise", async () => {
    render(
      <>
        <Held />
        <textarea aria-label="More about it" />
      </>,
    );
    const who = screen.getByRole("combobox", { name: "Who" });
    await userEvent.click(who);
    await screen.findByRole("option", { name: /Ada/ });
    await userEvent.click(screen.getByLabelText("More about it"));
    await waitFor(() => expect(who.getAttribute("aria-expanded")).toBe("false"));
    // What the library does when the list is gone is over by then.
    await new Promise(requestAnimationFrame);
    expect(document.activeElement).toBe(screen.getByLabelText("More about it"));
    await userEvent.click(who);
    await screen.findByRole("option", { name: /Ada/ });
    await userEvent.click(who);
    await waitFor(() => expect(document.activeElement).toBe(who));
    expect(who.getAttribute("aria-expanded")).toBe("false");
  });

  it("is narrowed down by letters, also of what tells two apart", async () => {
    const user = userEvent.setup();
    render(<Held />);
    await user.click(who());
    await user.keyboard("dut");
    expect(screen.getAllByRole("option").map((o) => o.dataset.choice)).toEqual(["teo"]);
    await user.keyboard("zzz");
    expect(screen.getByText("Nothing fits.")).toBeTruthy();
  });

  it("draws a hundred of many and says how many more there are", async () => {
    const user = userEvent.setup();
    render(<Held options={MANY} />);
    await user.click(who());
    expect(screen.getAllByRole("option")).toHaveLength(100);
    expect(screen.getByText(/30 more/)).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Narrow down"), { target: { value: "129" } });
    expect(screen.getAllByRole("option").map((o) => o.dataset.choice)).toEqual(["p129"]);
  });

  it("keeps a form from being sent while it is needed and empty", async () => {
    render(<Held required />);
    const form = screen.getByRole<HTMLFormElement>("form");
    expect(form.checkValidity()).toBe(false);
    await pick(who(), "ada");
    expect(form.checkValidity()).toBe(true);
  });

  it("asks elsewhere for what fits, when told to", () => {
    const search = vi.fn();
    render(<Select label="Who" options={FEW} value="" onChange={() => {}} onSearch={search} />);
    fireEvent.click(who());
    fireEvent.change(screen.getByLabelText("Narrow down"), { target: { value: "zed" } });
    expect(search.mock.calls).toEqual([[""], ["zed"]]);
    // What was found stays, whatever the letters.
    expect(screen.getAllByRole("option")).toHaveLength(3);
  });
});
