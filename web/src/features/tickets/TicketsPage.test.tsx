// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Session, TicketRow } from "../../api/types";
import { ADA, MIRA, pick, play, show } from "../../testing/stage";
import { TicketsPage } from "./TicketsPage";

const row = (number: string, more: Partial<TicketRow> = {}): TicketRow => ({
  number,
  kind: "incident",
  title: `Title of ${number}`,
  state: "logged",
  ended: false,
  priority: "P3",
  createdAt: "2026-03-02T08:00:00Z",
  updatedAt: "2026-03-02T09:00:00Z",
  targetMissed: false,
  folds: 0,
  ...more,
});

const ROWS = [row("I-1"), row("I-2", { assignee: "teo", state: "diagnosing" }), row("I-3", { group: "managers" })];

function open(as: Session = ADA, rows = ROWS) {
  const lists: string[] = [];
  // A list is answered whatever it is narrowed to, and what it was is noted.
  const sent = play({});
  const fetch = globalThis.fetch;
  globalThis.fetch = (async (path: string, init?: RequestInit) => {
    if (path.startsWith("/api/tickets?")) {
      lists.push(decodeURIComponent(path.slice("/api/tickets?".length)));
      return Response.json({ items: rows, more: false });
    }
    if (path.startsWith("/api/facets") || path === "/api/views") return Response.json([]);
    return fetch(path, init);
  }) as typeof globalThis.fetch;
  const { router } = show(<TicketsPage />, { as, at: "/tickets" });
  return { lists, sent, router, user: userEvent.setup() };
}

const numbers = () =>
  screen
    .getAllByRole("row")
    .map((r) => r.dataset.ticket)
    .filter(Boolean);

beforeEach(() => localStorage.clear());

describe("the list of tickets", () => {
  it("asks for open ones, and by a column's head for another order", async () => {
    const { lists, user } = open();
    await screen.findByText("Title of I-1");
    expect(lists[0]).toBe("open=true");
    expect(screen.getByRole("columnheader", { name: "Clock" }).getAttribute("aria-sort")).toBe("ascending");
    await user.click(screen.getByRole("button", { name: "Title" }));
    await waitFor(() => expect(lists.at(-1)).toBe("open=true&order=title"));
    await user.click(screen.getByRole("button", { name: "Title" }));
    await waitFor(() => expect(lists.at(-1)).toBe("open=true&order=title-last"));
    expect(screen.getByRole("columnheader", { name: "Title" }).getAttribute("aria-sort")).toBe("descending");
  });

  it("is gone through by keys, which stand still while one types", async () => {
    const { user, router } = open();
    await screen.findByText("Title of I-1");
    await user.keyboard("jjx");
    expect(screen.getByText("1 ticket chosen")).toBeTruthy();
    expect(document.querySelector("[aria-current=true]")?.getAttribute("data-ticket")).toBe("I-2");
    await user.keyboard("/");
    await user.keyboard("jo");
    expect(screen.getByLabelText<HTMLInputElement>("Search").value).toBe("jo");
    expect(router.state.location.pathname).toBe("/tickets");
    await user.keyboard("{Escape}");
    await user.keyboard("ko");
    await waitFor(() => expect(router.state.location.pathname).toBe("/tickets/I-1"));
  });

  it("puts rows together by who has them", async () => {
    const { lists, user } = open();
    await screen.findByText("Title of I-1");
    await pick(screen.getByLabelText("Rows together by"), "By who has it");
    await waitFor(() => expect(lists.at(-1)).toBe("open=true&order=with"));
    const heads = screen.getAllByRole("rowheader").map((h) => h.textContent);
    expect(heads).toEqual(["nobody yet", "Teo Marchetti", "Duty managers"]);
    await user.click(screen.getByRole("button", { name: "Number" }));
    await waitFor(() => expect(screen.queryAllByRole("rowheader")).toEqual([]));
  });

  it("has the columns that one chose, also the next time", async () => {
    const { user } = open();
    await screen.findByText("Title of I-1");
    await user.click(screen.getByRole("button", { name: "Columns…" }));
    const choice = within(screen.getByLabelText("Columns"));
    await user.click(choice.getByRole("checkbox", { name: "State" }));
    await user.click(choice.getByRole("checkbox", { name: "Asked by" }));
    const heads = screen.getAllByRole("columnheader", { hidden: true }).map((h) => h.textContent);
    expect(heads).toContain("Asked by");
    expect(heads).not.toContain("State");
    expect(localStorage.getItem("dastur-ticket-columns")).toContain("requester");
  });

  it("is taken along as it is narrowed down", async () => {
    const { user, lists } = open();
    await screen.findByText("Title of I-1");
    await user.click(screen.getByRole("button", { name: "Mine" }));
    await waitFor(() => expect(lists.at(-1)).toBe("assignee=ada&open=true"));
    expect(screen.getByRole("link", { name: "Save as CSV" }).getAttribute("href")).toBe(
      "/api/files/tickets?assignee=ada&open=true",
    );
  });

  it("does not tell a requester that they asked for nothing while they only look at what is open", async () => {
    open(MIRA, []);
    expect(await screen.findByText("Nothing of yours is open")).toBeTruthy();
    expect(screen.queryByText("Mine")).toBeNull();
  });

  it("shows every row up to a hundred", async () => {
    open(
      ADA,
      Array.from({ length: 100 }, (_, i) => row(`I-${i + 1}`)),
    );
    await screen.findByText("Title of I-100");
    expect(numbers()).toHaveLength(100);
  });
});
