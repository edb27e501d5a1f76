// @vitest-environment jsdom
import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import type { SideBySide } from "../../api/types";
import "../../testing/stage";
import { valueWords } from "../ticket/words";
import { Differences } from "./Differences";

const rule = (holds: boolean, why: string) => ({ name: "Share", holds, sense: "should turn good" as const, why });

const SIDES: SideBySide = {
  rules: [{ name: "Share", before: rule(true, "100 %"), after: rule(false, "78.6 %"), change: "turned bad" }],
  values: [
    { name: "adult", before: 42, after: 46, change: "changed", by: 4 },
    { name: "child", before: 21, after: 21, change: "same" },
    { name: "senior", before: 30, change: "not known" },
  ],
  lists: [
    {
      name: "seen",
      before: 2,
      after: 2,
      change: "changed",
      items: [
        { value: "a", change: "same" },
        { value: "b", change: "gone" },
        { value: "c", change: "new" },
      ],
    },
  ],
  tables: [
    {
      name: "devices",
      before: 2,
      after: 2,
      change: "changed",
      key: "device",
      keys: ["device", "address"],
      columns: ["answers", "device", "address"],
      rows: [
        {
          before: { device: "ALD-01", answers: true, address: "10.0.0.1" },
          after: { device: "ALD-01", answers: true, address: "10.0.0.1" },
          change: "same",
          differs: [],
        },
        {
          before: { device: "ALD-02", answers: true, address: "10.0.0.2" },
          after: { device: "ALD-02", answers: false, address: "10.0.0.2" },
          change: "changed",
          differs: ["answers"],
        },
      ],
    },
  ],
};

function show(all: boolean) {
  const chosen: string[] = [];
  render(
    <Differences
      sides={SIDES}
      all={all}
      label={(name) => name}
      heads={["Before", "After"]}
      words={(_, value) => valueWords(value)}
      keys={{}}
      onKey={(table, column) => chosen.push(`${table}: ${column}`)}
    />,
  );
  return chosen;
}

const region = (name: string) => within(screen.getByRole("region", { name }));

it("shows what differs, each with a word and not by its colour", () => {
  show(false);
  expect(region("Values").getAllByRole("row")).toHaveLength(3);
  expect(region("Values").getByRole("row", { name: /adult/ }).textContent).toContain("changed");
  expect(region("Values").getByRole("row", { name: /adult/ }).textContent).toContain("+4");
  expect(region("Values").getByRole("row", { name: /senior/ }).textContent).toMatch(/not known.*no value/);
  expect(region("Rules").getByRole("row", { name: /Share/ }).textContent).toMatch(/turned bad.*held.*did not hold/);
  expect(region("seen").queryByText("a")).toBeNull();
  expect(region("devices").queryByText("ALD-01")).toBeNull();
  expect(region("devices").getByRole("row", { name: /ALD-02/ }).textContent).toContain("yes → no");
});

it("shows everything when asked, and what names the rows stands first", () => {
  show(true);
  expect(region("Values").getByRole("row", { name: /child/ }).textContent).toContain("same");
  expect(region("seen").getByText("a")).toBeTruthy();
  expect(region("devices").getByText("ALD-01")).toBeTruthy();
  expect(region("devices").getAllByRole("columnheader")[1]?.textContent).toBe("device");
});

it("lets one say what names the rows", async () => {
  const chosen = show(false);
  await userEvent.click(screen.getByRole("combobox", { name: "Rows of devices are named by" }));
  await userEvent.click(await screen.findByRole("option", { name: "address" }));
  expect(chosen).toEqual(["devices: address"]);
});

it("shows as they came two numbers that are not the same but look so", () => {
  render(
    <Differences
      sides={{
        rules: [],
        values: [{ name: "x", before: 1.00000001, after: 1.00000002, change: "changed" }],
        lists: [],
        tables: [],
      }}
      all={false}
      label={(name) => name}
      heads={["Before", "After"]}
      words={(_, value) => valueWords(value)}
      keys={{}}
      onKey={() => undefined}
    />,
  );
  expect(screen.getByText("1.00000001")).toBeTruthy();
  expect(screen.getByText("1.00000002")).toBeTruthy();
});
