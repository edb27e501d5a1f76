// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Reading, SignalLine, SourceView } from "../../api/types";
import { ADA, held, pick, play, type Sent, show } from "../../testing/stage";
import { HowToSend } from "./HowToSend";
import { MappingEditor } from "./MappingEditor";

const VIEW: SourceView = {
  source: {
    key: "board-monitor",
    name: "Board monitor",
    open: true,
    proof: "signature",
    otherwise: "kept",
    neverQuiet: false,
    from: [],
    mapping: { rows: [{ to: "severity", from: { is: "at", pointer: "/data/level" }, table: { "2": "major" } }] },
  },
  line: {
    key: "board-monitor",
    name: "Board monitor",
    open: true,
    proof: "signature",
    otherwise: "kept",
    day: 3,
    notUnderstood: 0,
  },
  path: "/in/board-monitor",
  secrets: [{ which: 1, at: "2026-03-01T08:00:00Z" }],
  refused: [],
};
const SAMPLE = { id: "s1", source: "board-monitor", cameAt: "2026-03-02T09:50:00Z", state: "kept" } as SignalLine;

/** As the server would read it: each row takes what stands at its place. */
const read = (sent: Sent): Reading => {
  const { mapping } = sent.body as { mapping: SourceView["source"]["mapping"] };
  return {
    cells: mapping.rows.map((r) => ({ to: r.to, name: r.name, came: "2", means: `means of ${r.name ?? r.to}` })),
    problem: "'3' is not in the table of the severity.",
  } as Reading;
};

const TRIAL = {
  reading: { cells: [], signal: {} },
  foreseen: {
    does: "opened",
    turn: "begins",
    kind: "incident",
    told: [{ asked: "planned work goes on there", took: false, answer: "no change is planned there" }],
    looks: [{ trigger: "t", workflow: "w", name: "Frozen departure board", started: true, why: "it says so" }],
  },
};

/** Samples that the server keeps. */
let names: string[] = [];

function shown(may = true, as = ADA) {
  names = [];
  const server = {
    "GET /api/signals/s1": { line: SAMPLE, headers: {}, raw: { data: { level: 2, unit: "10.30.0.27", line: "" } } },
    "GET /api/sources/board-monitor/samples": () =>
      names.map((name) => ({ name, at: "2026-03-02T09:50:00Z", by: "halvard" })),
    "GET /api/sources/board-monitor/samples/No%20line": { line: {}, headers: {}, raw: { data: { level: 9 } } },
    "PUT /api/sources/board-monitor/samples/No%20line": () => {
      names = ["No line"];
      return null;
    },
    "DELETE /api/sources/board-monitor/samples/No%20line": () => {
      names = [];
      return null;
    },
    "POST /api/sources/board-monitor/readings": read,
    "POST /api/sources/board-monitor/trials": TRIAL,
    "POST /api/sources/board-monitor/tests": { ticket: "I-9", seq: 5 },
    "PUT /api/sources/board-monitor": VIEW,
  };
  const sent = play(server);
  show(<MappingEditor view={VIEW} samples={[SAMPLE]} may={may} />, { as, at: "/sources" });
  return Object.assign(() => sent.filter((s) => s.method === "PUT"), {
    all: (of: string) => sent.filter((s) => s.path.endsWith(of)),
  });
}

describe("what a source's words mean", () => {
  it("stands beside what came, and says what is not understood", async () => {
    shown();
    expect(await screen.findByText("means of severity")).toBeTruthy();
    expect(screen.getByText(/by a table of 1 word/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "blank" })).toBeTruthy();
    expect(await screen.findByText(/Not understood: '3'/)).toBeTruthy();
  });

  it("says what would happen by the mapping that stands there, only when asked, and by none that is not understood", async () => {
    const asked = shown().all;
    fireEvent.click(await screen.findByRole("button", { name: "10.30.0.27" }));
    expect(await screen.findByText("means of unit")).toBeTruthy();
    expect(asked("trials")).toHaveLength(0);
    fireEvent.click(screen.getByRole("button", { name: "What would happen if it came now?" }));
    expect(await screen.findByText("It would open an incident and start Frozen departure board.")).toBeTruthy();
    expect(screen.getByText("no change is planned there")).toBeTruthy();
    expect(asked("trials")[0]?.body).toMatchObject({ signal: "s1", mapping: { rows: [{}, { name: "unit" }] } });
  });

  it("is tried on a ticket that is a test, by those who design", async () => {
    const asked = shown(true, { ...ADA, roles: ["process owner"] }).all;
    fireEvent.click(await screen.findByRole("button", { name: "What would happen if it came now?" }));
    fireEvent.click(await screen.findByRole("button", { name: "Open a test" }));
    await waitFor(() => expect(asked("tests")[0]?.body).toMatchObject({ signal: "s1", mapping: { rows: [{}] } }));
  });

  it("is only foreseen by others", async () => {
    shown();
    fireEvent.click(await screen.findByRole("button", { name: "What would happen if it came now?" }));
    await screen.findByText("no change is planned there");
    expect(screen.queryByRole("button", { name: "Open a test" })).toBeNull();
  });

  it("takes a value by a click, and counts from when it is used", async () => {
    const saved = shown();
    fireEvent.click(await screen.findByRole("button", { name: "10.30.0.27" }));
    expect(await screen.findByText("means of unit")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Use from now on" }));
    await waitFor(() => expect(saved()).toHaveLength(1));
    expect(saved()[0]?.body).toMatchObject({
      name: "Board monitor",
      mapping: { rows: [VIEW.source.mapping.rows[0], { to: "value", name: "unit", type: "text" }] },
    });
  });

  it("keeps what was typed while one looks elsewhere, and lets it go when one says so", async () => {
    shown();
    fireEvent.click(await screen.findByRole("button", { name: "10.30.0.27" }));
    await screen.findByText("means of unit");
    expect(sessionStorage.getItem("dastur-mapping-board-monitor")).toContain("unit");
    fireEvent.click(screen.getByRole("button", { name: "Leave it as it was" }));
    await waitFor(() => expect(screen.queryByText("means of unit")).toBeNull());
    expect(sessionStorage.getItem("dastur-mapping-board-monitor")).toBeNull();
  });

  it("has a table of words, ours to be chosen", async () => {
    const saved = shown();
    fireEvent.click(await screen.findByRole("button", { name: /severity/ }));
    fireEvent.click(screen.getByRole("button", { name: "Add a word" }));
    fireEvent.change(screen.getByLabelText("Word 2 as it comes"), { target: { value: "3" } });
    await pick(screen.getByLabelText("What word 2 means"), "minor");
    expect(held(screen.getByLabelText("What word 2 means"))).toBe("minor");
    fireEvent.click(screen.getByRole("button", { name: "Use from now on" }));
    await waitFor(() => expect(saved()).toHaveLength(1));
    expect(saved()[0]?.body).toMatchObject({ mapping: { rows: [{ table: { "2": "major", "3": "minor" } }] } });
  });

  it("is only looked at by whoever may not change it", async () => {
    shown(false);
    await screen.findByText("means of severity");
    expect(screen.queryByRole("button", { name: "10.30.0.27" })).toBeNull();
    expect(screen.queryByText("Say more of it")).toBeNull();
  });
});

describe("how to send", () => {
  it("shows a secret once, when it is made, and puts it into the example", async () => {
    const sent = play({ "POST /api/sources/board-monitor/secrets": { secret: "whsec_abc" } });
    show(<HowToSend view={VIEW} may />, { at: "/sources" });
    expect(await screen.findByText(/the-secret/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Make the second secret" }));
    expect(await screen.findByText("whsec_abc")).toBeTruthy();
    expect(sent[0]?.body).toEqual({ which: 2 });
    expect(screen.queryByText(/the-secret/)).toBeNull();
  });

  it("offers nothing to whoever may not", async () => {
    play({});
    show(<HowToSend view={VIEW} may={false} />, { at: "/sources" });
    await screen.findByText(/Administrators make secrets/);
    expect(screen.queryByRole("button")).toBeNull();
  });
});

describe("samples that are kept", () => {
  it("are tried by their names, until they are let go", async () => {
    const put = shown();
    await userEvent.click(await screen.findByRole("button", { name: "Keep this one…" }));
    await userEvent.type(screen.getByLabelText("Keep it as"), "No line");
    await userEvent.click(screen.getByRole("button", { name: "Keep" }));
    expect(await screen.findByRole("button", { name: "9" })).toBeTruthy();
    expect(put().map((s) => s.body)).toEqual([{ signal: "s1" }]);
    expect(put.all("/readings").at(-1)?.body).toMatchObject({ kept: "No line" });
    await userEvent.click(screen.getByRole("button", { name: "What would happen if it came now?" }));
    await waitFor(() => expect(put.all("/trials").at(-1)?.body).toMatchObject({ kept: "No line" }));
    await userEvent.click(screen.getByRole("button", { name: "Let it go" }));
    expect(await screen.findByRole("button", { name: "10.30.0.27" })).toBeTruthy();
    expect(screen.queryByLabelText("Tried on")).toBeNull();
  });

  it("are kept and let go by nobody who may not set the source", async () => {
    shown(false);
    await screen.findByText("means of severity");
    expect(screen.queryByRole("button", { name: "Keep this one…" })).toBeNull();
  });
});
