// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { ListLine, ListView } from "../../api/types";
import { play, show } from "../../testing/stage";
import { countWords, ListsUnderWay, RowsOnDemand } from "./ListRows";

const LIST: ListLine = { visit: "I-7.1.4", name: "Remove each trace file", count: 4, done: 1, failed: 1, underWay: 1 };

const VIEW: ListView = {
  list: LIST,
  rows: [
    { item: { name: "a.trace", size: 300 }, state: "done", result: "removed", at: [] },
    { item: { name: "b.trace", size: 260 }, state: "failed", result: "failed", at: [], why: "it is in use" },
    {
      item: { name: "c.trace", size: 270 },
      state: "under way",
      at: ["Remove the file"],
      since: "2026-03-02T09:59:20Z",
    },
    { item: { name: "d.trace", size: 280 }, state: "waits", at: [] },
  ],
};

it("tells row by row how far a list has come, and why something failed", async () => {
  play({ "GET /api/tickets/I-7/lists": [LIST], "GET /api/tickets/I-7/lists/I-7.1.4": VIEW });
  show(<ListsUnderWay ticket="I-7" />);
  expect(await screen.findByText("1 of 4 done, 1 failed, 1 under way")).toBeTruthy();
  await screen.findByText("b.trace");
  const rows = screen.getAllByRole("row").map((r) => r.textContent ?? "");
  expect(rows[0]).toContain("namesizehow it stands");
  expect(rows[1]).toContain("removed");
  expect(rows[2]).toContain("failed: it is in use");
  expect(rows[3]).toMatch(/under way: Remove the file, for/);
  expect(rows[4]).toContain("waits");
});

it("goes when the list was left", async () => {
  const answers: Record<string, unknown> = {
    "GET /api/tickets/I-7/lists": [LIST],
    "GET /api/tickets/I-7/lists/I-7.1.4": VIEW,
  };
  play(answers);
  const { queries } = show(<ListsUnderWay ticket="I-7" />);
  await screen.findByText(LIST.name);
  answers["GET /api/tickets/I-7/lists"] = [];
  queries.invalidateQueries({ queryKey: ["ticket", "I-7"] });
  await waitFor(() => expect(screen.queryByText(LIST.name)).toBeNull());
});

it("shows the first rows of many, and what was redacted as such", async () => {
  const many = Array.from({ length: 60 }, (_, i) => ({ item: i === 0 ? undefined : `g${i}`, state: "waits", at: [] }));
  play({ "GET /api/tickets/I-7/lists/I-7.1.4": { list: { ...LIST, count: 60 }, rows: many } });
  show(<RowsOnDemand ticket="I-7" visit="I-7.1.4" />);
  fireEvent.click(await screen.findByText("row by row"));
  await screen.findByText("redacted");
  expect(screen.getAllByRole("row")).toHaveLength(26);
  fireEvent.click(screen.getByText("show all 60 rows"));
  expect(screen.getAllByRole("row")).toHaveLength(61);
});

it.each([
  [LIST, "1 of 4 done, 1 failed, 1 under way"],
  [{ ...LIST, failed: 0, underWay: 0, done: 4 }, "4 of 4 done"],
])("counts in words", (list, words) => expect(countWords(list)).toBe(words));
