// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { SourceView } from "../../api/types";
import { play, Refusal, show } from "../../testing/stage";
import { BySyslog } from "./BySyslog";

const VIEW = {
  source: { key: "gate-log", name: "Gates", open: true, proof: "address", from: ["10.30.0.0/16"], neverQuiet: false },
  syslogPort: 6514,
} as unknown as SourceView;
const PUT = "PUT /api/sources/gate-log";

const typed = async (text: string) =>
  fireEvent.change(await screen.findByLabelText("They send from"), { target: { value: text } });

describe("a source of syslog", () => {
  it("says where it is sent to, and by which command", async () => {
    play({});
    show(<BySyslog view={VIEW} may />);
    expect(await screen.findByText(/logger --server localhost --tcp --port 6514/)).toBeTruthy();
  });

  it("takes addresses with commas or spaces between, and sets nothing else", async () => {
    const sent = play({ [PUT]: VIEW });
    show(<BySyslog view={VIEW} may />);
    await typed(" 10.30.0.1,  10.31.0.0/16 ");
    fireEvent.click(screen.getByRole("button", { name: "Set" }));
    await waitFor(() => expect(sent.filter((s) => s.method === "PUT")).toHaveLength(1));
    const { key, ...rest } = VIEW.source;
    expect(sent[0]?.body).toEqual({ ...rest, from: ["10.30.0.1", "10.31.0.0/16"] });
  });

  it("keeps what was typed where it is refused, and says so there", async () => {
    play({ [PUT]: new Refusal(422, "'x' is neither an address nor a network.", { where: "from[0]" }) });
    show(<BySyslog view={VIEW} may />);
    await typed("x");
    fireEvent.click(screen.getByRole("button", { name: "Set" }));
    expect(await screen.findByText(/neither an address nor a network/)).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("They send from").value).toBe("x");
  });

  it("says where none is taken, and lets nobody else change it", async () => {
    play({});
    show(<BySyslog view={{ ...VIEW, syslogPort: undefined }} may={false} />);
    expect(await screen.findByText("--syslog-port")).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("They send from").readOnly).toBe(true);
  });
});
