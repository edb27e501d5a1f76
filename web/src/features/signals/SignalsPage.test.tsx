// @vitest-environment jsdom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Matter, Matters, SignalView, Ticket } from "../../api/types";
import { ADA, play, Refusal, show, ticket } from "../../testing/stage";
import { OfTicket } from "./OfTicket";
import { SignalsPage } from "./SignalsPage";

const matter = (key: string, more: Partial<Matter> = {}): Matter => ({
  key,
  title: `Matter ${key}`,
  inFault: ["Board monitor"],
  worst: "major",
  since: "2026-03-02T09:50:00Z",
  lastAt: "2026-03-02T09:55:00Z",
  count: 3,
  recoveryTold: false,
  ...more,
});

const all = (...matters: Matter[]): Matters => ({ matters, more: false, needing: 1 });
const TRAFFIC = { from: "2026-03-02T04:00:00Z", slotSeconds: 600, counts: [0, 2, 1] };
const line = {
  id: "s1",
  source: "board-monitor",
  cameAt: "2026-03-02T09:50:00Z",
  state: "opened",
  turn: "begins",
  sort: "fault",
  severity: "major",
  title: "Matter a",
  ticket: "I-7",
};
const WHY: SignalView = {
  line,
  headers: {},
  raw: { data: { state: "FROZEN" } },
  told: [
    { asked: "an open ticket is about the same", took: false, answer: "none is" },
    { asked: "triggers, in their order", took: true, answer: "Frozen departure board" },
  ],
  looks: [
    {
      trigger: "t",
      workflow: "frozen",
      name: "Frozen departure board",
      started: true,
      why: "the board monitor says so",
      condition: {
        condition: "signal.pictureAge >= 60",
        verdict: "true",
        clauses: [{ text: "signal.pictureAge >= 60", verdict: "true", seen: { "signal.pictureAge": 412 }, absent: [] }],
      },
    },
  ],
} as unknown as SignalView;

const SERVER = {
  "GET /api/matters": all(matter("a", { ticket: "I-7", state: "logged", run: "Frozen departure board" }), matter("b")),
  "GET /api/signals/traffic": TRAFFIC,
  "GET /api/matters/why?matter=a": WHY,
  "GET /api/signals?matter=a": { lines: [line], more: false },
  "GET /api/signals/s1": WHY,
};

describe("what came in", () => {
  it("keeps the place of the bars where none came, and says so", async () => {
    play({ ...SERVER, "GET /api/signals/traffic": { ...TRAFFIC, counts: [0, 0, 0] } });
    show(<SignalsPage />, { at: "/signals" });
    expect(await screen.findByRole("img", { name: "Signals in the last six hours; none came." })).toBeTruthy();
  });

  it("names the ticket that explains a fault, and asks for nobody meanwhile", async () => {
    play({
      ...SERVER,
      "GET /api/matters": all(matter("a", { aside: { ticket: "C-7", because: "planned work" } })),
    });
    show(<SignalsPage />, { at: "/signals?matter=a" });
    const row = await screen.findByRole("button", { name: /Matter a/ });
    expect(row.textContent).toContain("C-7 explains it: planned work");
    expect(row.querySelector(".text-late")).toBeNull();
    expect(await screen.findByRole("link", { name: "C-7" })).toBeTruthy();
  });

  it("stands as one row a matter, with what is about it, and says how many need somebody", async () => {
    play(SERVER);
    show(<SignalsPage />, { at: "/signals" });
    const row = await screen.findByRole("button", { name: /Matter a/ });
    expect(row.textContent).toContain("I-7 logged, Frozen departure board is under way");
    expect(screen.getByText("One matter needs somebody.")).toBeTruthy();
    await screen.findByRole("img", { name: /most at .*: 2 in ten minutes/ });
  });

  it("says why, clause by clause, and shows what came as it came", async () => {
    play(SERVER);
    show(<SignalsPage />, { at: "/signals" });
    fireEvent.click(await screen.findByRole("button", { name: /Matter a/ }));
    const made = await screen.findByRole("region", { name: "What Dastur made of it" });
    await within(made).findByText("none is");
    expect(made.textContent).toContain("the signal’s picture age is at least 60");
    expect(made.textContent).toContain("the signal’s picture age was 412");
    fireEvent.click(await screen.findByRole("button", { name: /begins, major/ }));
    expect((await screen.findByText(/"FROZEN"/)).tagName).toBe("PRE");
  });

  it("does not let a new matter push others away: it is announced, and shown when one asks", async () => {
    const server: Record<string, unknown> = { ...SERVER };
    play(server);
    const { queries } = show(<SignalsPage />, { at: "/signals" });
    await screen.findByRole("button", { name: /Matter a/ });
    server["GET /api/matters"] = all(matter("new"), matter("b", { count: 9 }), matter("a"));
    await queries.invalidateQueries({ queryKey: ["matters"] });
    const fresh = await screen.findByRole("button", { name: /One more matter/ });
    const rows = () => within(screen.getByRole("list", { name: "Matters" })).getAllByRole("button");
    expect(rows().map((r) => r.textContent?.match(/Matter (a|b|new)/)?.[0])).toEqual(["Matter a", "Matter b"]);
    expect(rows()[1]?.textContent).toContain("9 signals");
    fireEvent.click(fresh);
    await waitFor(() => expect(rows()).toHaveLength(3));
  });

  it("counts in its head what has just come below it", async () => {
    const server: Record<string, unknown> = {
      ...SERVER,
      "GET /api/signals/traffic": { ...TRAFFIC, counts: [0, 0, 0] },
    };
    play(server);
    const { queries } = show(<SignalsPage />, { at: "/signals" });
    await screen.findByText(/0 signals in the last six hours/);
    server["GET /api/signals/traffic"] = { ...TRAFFIC, counts: [0, 0, 4] };
    server["GET /api/matters"] = all(matter("new"), matter("b"), matter("a"));
    await queries.invalidateQueries({ queryKey: ["matters"] });
    expect(await screen.findByText(/4 signals in the last six hours/)).toBeTruthy();
  });

  it("walks with j and k", async () => {
    play(SERVER);
    const { router } = show(<SignalsPage />, { at: "/signals" });
    await screen.findByRole("button", { name: /Matter a/ });
    fireEvent.keyDown(window, { key: "j" });
    await waitFor(() => expect(router.state.location.search).toEqual({ matter: "a" }));
    fireEvent.keyDown(window, { key: "j" });
    await waitFor(() => expect(router.state.location.search).toEqual({ matter: "b" }));
    fireEvent.keyDown(window, { key: "k" });
    await waitFor(() => expect(router.state.location.search).toEqual({ matter: "a" }));
  });

  it("says that nothing has come, and what to do when it cannot be read", async () => {
    play({ ...SERVER, "GET /api/matters": { matters: [], more: false, needing: 0 } });
    show(<SignalsPage />, { at: "/signals" });
    await screen.findByText(/Nothing has come yet/);
    expect(screen.getByText(/None needs somebody/)).toBeTruthy();
  });

  it("tells of a refusal", async () => {
    play({ ...SERVER, "GET /api/matters": new Refusal(403, "You may not.") });
    show(<SignalsPage />, { at: "/signals" });
    await screen.findByText(/You may not/);
  });
});

describe("signals on a ticket", () => {
  const shown = (t: Partial<Ticket>, m: Matter) => {
    const sent = play({
      "GET /api/tickets/I-7/matters": [m],
      "PUT /api/tickets/I-7": { ticket: "I-7", seq: 9 },
    });
    show(<OfTicket ticket={ticket([], { moves: ["restored"], ...t })} />, { as: ADA, at: "/tickets" });
    return sent;
  };

  it("offer to restore it only once it has recovered and stayed so", async () => {
    const sent = shown({}, matter("a", { inFault: [], recoveryTold: true }));
    fireEvent.click(await screen.findByRole("button", { name: "Set it to restored" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]).toMatchObject({ path: "/api/tickets/I-7", body: { fields: { state: "restored" } } });
  });

  it.each<[string, Partial<Ticket>, Partial<Matter>]>([
    ["in fault", {}, { recoveryTold: true }],
    ["clear for too short a time", {}, { inFault: [] }],
    ["restored already", { state: "restored", moves: ["closed"] }, { inFault: [], recoveryTold: true }],
    ["not one's to change", { mayWork: false }, { inFault: [], recoveryTold: true }],
  ])("do not while it is %s", async (_, t, m) => {
    shown(t, matter("a", m));
    await screen.findByText("Matter a");
    expect(screen.queryByRole("button", { name: "Set it to restored" })).toBeNull();
  });
});
