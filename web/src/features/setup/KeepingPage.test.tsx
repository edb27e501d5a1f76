// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { ADA, play, Refusal, show } from "../../testing/stage";
import { KeepingBar } from "./KeepingBar";
import { KeepingPage } from "./KeepingPage";

const HALVARD = { ...ADA, id: "halvard", name: "Halvard Quist", roles: ["administrator"] } as typeof ADA;

const WELL = {
  key: "MCowBQ==",
  newest: {
    number: 3,
    epoch: 1,
    size: 1200,
    root: "ab12",
    at: "2026-03-02T08:00:00Z",
    text: "",
    hash: "",
    signature: "",
  },
  copiesKept: 0,
  witnesses: [],
  passing: { tickets: 0, problems: 0, findings: [] },
  copies: [{ name: "2026-03-02T070000Z", at: "2026-03-02T07:00:00Z", bytes: 12_400_000, tickets: 170, changes: 1100 }],
};

describe("how what is kept stands", () => {
  it("shows what was signed, the copies, and that no audit was made", async () => {
    play({ "GET /api/keeping": WELL });
    show(<KeepingPage />, { as: HALVARD });
    expect(await screen.findByText(/1200 changes of records, epoch 1/)).toBeTruthy();
    expect(screen.getByText("12.4 MB")).toBeTruthy();
    expect(screen.getByText("None since the application was started.")).toBeTruthy();
  });

  it("says to whom outside it was given, and who cannot be given one", async () => {
    play({
      "GET /api/keeping": {
        ...WELL,
        witnesses: [
          {
            kind: "FILE",
            name: "witness.ndjson",
            everyMinutes: 1,
            givenAt: "2026-03-02T08:00:00Z",
            changes: 1190,
            late: false,
          },
          {
            kind: "STAMP",
            name: "https://time.example/stamps",
            everyMinutes: 60,
            trouble: "The authority cannot be reached.",
            late: true,
          },
          { kind: "MAIL", name: "auditor@kestrel.example", everyMinutes: 1440, late: true },
        ],
      },
    });
    show(<KeepingPage />, { as: HALVARD });
    const rows = (await screen.findByRole("table", { name: /Who outside/ })).querySelectorAll("tbody tr");
    expect([...rows].map((r) => r.textContent?.replace(/\s+/g, " "))).toEqual([
      expect.stringMatching(/file witness.ndjson.*each minute.*1190/),
      expect.stringMatching(/stamped by.*cannot be reached.*not covered there.*each hour.*none yet/),
      expect.stringMatching(/by mail.*None was given when it was due.*once a day/),
    ]);
  });

  it("says when nobody outside is given one", async () => {
    play({ "GET /api/keeping": WELL });
    show(<KeepingPage />, { as: HALVARD });
    expect(await screen.findByText(/Nobody outside is given one/)).toBeTruthy();
  });

  it("says where an audit found something that is not as written", async () => {
    const audit = {
      at: "2026-03-02T08:00:00Z",
      changes: 1200,
      checkpoints: 40,
      tickets: 170,
      entries: 3000,
      problems: 1,
      findings: [{ where: "I-1045", seq: 7, what: "it was altered" }],
    };
    play({ "GET /api/keeping": { ...WELL, audit } });
    show(<KeepingPage />, { as: HALVARD });
    expect(await screen.findByText("One thing is not as written.")).toBeTruthy();
    expect(screen.getByText("I-1045").closest("li")?.textContent).toContain("from entry 7: it was altered");
  });

  it("tells why a copy could not be taken, and takes one when asked again", async () => {
    const answers: Record<string, unknown> = {
      "GET /api/keeping": { ...WELL, copies: [] },
      "POST /api/keeping/copies": new Refusal(409, "A copy or an audit is under way."),
    };
    const sent = play(answers);
    show(<KeepingPage />, { as: HALVARD });
    const user = userEvent.setup();
    await user.click(await screen.findByRole("button", { name: "Take a copy" }));
    expect(await screen.findByText("A copy or an audit is under way.")).toBeTruthy();
    answers["POST /api/keeping/copies"] = WELL.copies[0];
    answers["GET /api/keeping"] = WELL;
    await user.click(screen.getByRole("button", { name: "Take a copy" }));
    expect(await screen.findByText("12.4 MB")).toBeTruthy();
    expect(sent).toHaveLength(2);
  });

  it("says that nodes share a server, and leaves copies to it", async () => {
    play({ "GET /api/keeping": { ...WELL, copies: [], nodes: 2 } });
    show(<KeepingPage />, { as: HALVARD });
    expect(await screen.findByText(/on a server that 2 nodes share/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Take a copy" })).toBeNull();
    expect(screen.getByRole("button", { name: "Go through everything" })).toBeTruthy();
  });

  it("says what it has found in passing, and what became of copies that it takes by itself", async () => {
    const passing = {
      begunAt: "2026-03-02T08:00:00Z",
      tickets: 12,
      problems: 1,
      findings: [{ where: "I-1001", seq: 0, what: "its clock is not set as it should be" }],
    };
    play({
      "GET /api/keeping": { ...WELL, passing, copiesEveryHours: 24, copiesKept: 7, copyTrouble: "the disk is full." },
    });
    show(<KeepingPage />, { as: HALVARD });
    expect(await screen.findByText("One thing was not as written.")).toBeTruthy();
    expect(screen.getByText("I-1001").closest("li")?.textContent).toContain("its clock is not set");
    expect(screen.getByText(/so far 12 tickets/)).toBeTruthy();
    expect(screen.getByText(/every 24 hours; the last 7 are kept/)).toBeTruthy();
    expect(screen.getByText(/could not be taken: the disk is full/)).toBeTruthy();
  });

  it("offers nothing to those who only look", async () => {
    play({ "GET /api/keeping": WELL });
    show(<KeepingPage />);
    expect(await screen.findByText("12.4 MB")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Take a copy" })).toBeNull();
  });
});

describe("the bar after a restore", () => {
  it("lets an administrator say that things go out again, and goes then", async () => {
    const answers: Record<string, unknown> = {
      "GET /api/keeping": { ...WELL, heldSince: "2026-03-02T08:00:00Z" },
      "POST /api/keeping/go-on": WELL,
    };
    const sent = play(answers);
    show(<KeepingBar />, { as: HALVARD });
    await screen.findByText("Restored from a copy");
    answers["GET /api/keeping"] = WELL;
    await userEvent.setup().click(screen.getByRole("button", { name: "Let things go out again" }));
    await waitFor(() => expect(screen.queryByText("Restored from a copy")).toBeNull());
    expect(sent.map((s) => s.path)).toEqual(["/api/keeping/go-on"]);
  });

  it("is there for others without the button, and says when nothing is signed", async () => {
    play({ "GET /api/keeping": { ...WELL, heldSince: "2026-03-02T08:00:00Z", refused: "The log was rewritten." } });
    show(<KeepingBar />);
    expect(await screen.findByText("Restored from a copy")).toBeTruthy();
    expect(screen.getByText("Records are not signed any more:")).toBeTruthy();
    expect(screen.queryByRole("button")).toBeNull();
  });
});
