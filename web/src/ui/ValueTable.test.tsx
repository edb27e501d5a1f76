// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { isTable, ValueTable } from "./ValueTable";

afterEach(cleanup);

describe("a table among values", () => {
  it.each([
    [[{ a: 1 }, { b: 2 }], true],
    [[], false],
    [[1, 2], false],
    [[{ a: 1 }, 2], false],
    [[{}], false],
    [{ a: 1 }, false],
    ["a", false],
    [[null], false],
  ])("%j: %s", (value, is) => expect(isTable(value)).toBe(is));

  it("shows every column that any row has, ten rows at first, and says how many there are", () => {
    const rows = Array.from({ length: 12 }, (_, i) =>
      i === 3 ? { name: `f${i}`, size: i, note: "kept" } : { name: `f${i}`, size: i },
    );
    render(<ValueTable rows={rows} words={String} />);
    expect(screen.getAllByRole("columnheader").map((c) => c.textContent)).toEqual(["name", "size", "note"]);
    expect(screen.getAllByRole("row")).toHaveLength(11);
    expect(screen.getByText(/12 rows/)).toBeTruthy();
    fireEvent.click(screen.getByText("show all"));
    expect(screen.getAllByRole("row")).toHaveLength(13);
    expect(screen.queryByText("show all")).toBeNull();
  });
});
