// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { SourceView } from "../../api/types";
import { play, Refusal, show } from "../../testing/stage";
import { Rules } from "./Rules";

const VIEW = {
  source: { key: "gate-log", name: "Gates", open: true, proof: "token", otherwise: "kept", neverQuiet: false },
  usuallySeconds: 240,
} as unknown as SourceView;
const PUT = "PUT /api/sources/gate-log";

const choose = async (option: RegExp) => {
  fireEvent.click(await screen.findByLabelText("When nothing comes from it"));
  fireEvent.click(await screen.findByRole("option", { name: option }));
};

describe("what becomes of what a source sends", () => {
  it("says how often one usually comes, and sets after how long silence is a fault", async () => {
    const sent = play({ [PUT]: VIEW });
    show(<Rules view={VIEW} may />);
    expect(await screen.findByText("Usually one comes every 4 min.")).toBeTruthy();
    await choose(/after 2 h/);
    await waitFor(() => expect(sent.filter((s) => s.method === "PUT")).toHaveLength(1));
    const { key, ...rest } = VIEW.source;
    expect(sent[0]?.body).toEqual({ ...rest, silentAfterMinutes: 120 });
  });

  it("takes it back, and offers what a program had set", async () => {
    const sent = play({ [PUT]: VIEW });
    const set = { ...VIEW, source: { ...VIEW.source, silentAfterMinutes: 45 }, usuallySeconds: undefined };
    show(<Rules view={set} may />);
    expect(await screen.findByText(/Too few have come/)).toBeTruthy();
    expect(screen.getByLabelText("When nothing comes from it").textContent).toContain("after 45 min");
    await choose(/nobody is told/);
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).not.toHaveProperty("silentAfterMinutes", expect.anything());
  });

  it("says why it was refused", async () => {
    play({ [PUT]: new Refusal(422, "Silence is told after 5 minutes to 14 days.", { where: "silentAfterMinutes" }) });
    show(<Rules view={VIEW} may />);
    await choose(/after 5 min/);
    expect(await screen.findByText(/5 minutes to 14 days/)).toBeTruthy();
  });

  it("lets nobody else change it", async () => {
    play({});
    show(<Rules view={VIEW} may={false} />);
    expect((await screen.findByLabelText("When nothing comes from it")).hasAttribute("disabled")).toBe(true);
  });
});
