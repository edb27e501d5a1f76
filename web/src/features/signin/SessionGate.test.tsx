// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { api, useSignedOut } from "../../api/client";
import { ADA, play, Refusal, show } from "../../testing/stage";
import { useSend } from "../ticket/useSend";
import { SessionGate } from "./SessionGate";

const NOTE = "POST /api/tickets/I-7/notes";

function Writing() {
  const [text, setText] = useState("");
  const send = useSend("I-7", () => setText(""));
  return (
    <>
      <input aria-label="Note" value={text} onChange={(e) => setText(e.target.value)} />
      <button type="button" onClick={() => send.mutate({ path: "/api/tickets/I-7/notes", body: { text } })}>
        Add
      </button>
    </>
  );
}

function open(answers: Record<string, unknown>) {
  const all: Record<string, unknown> = {
    "GET /api/entrance": { demo: false, needsSetup: false, demoPeople: [], session: ADA },
    ...answers,
  };
  const sent = play(all);
  show(
    <SessionGate>
      <Writing />
    </SessionGate>,
  );
  return { sent, all, user: userEvent.setup() };
}

beforeEach(() => {
  useSignedOut.setState({ out: false });
  vi.stubGlobal(
    "EventSource",
    class {
      static readonly CLOSED = 2;
      addEventListener() {}
      close() {}
    },
  );
});

describe("somebody whom the server knows no more", () => {
  it("signs in where they are, and goes on with what they typed", async () => {
    const { sent, all, user } = open({
      [NOTE]: new Refusal(401, "Sign in first."),
      "POST /api/session": { ...ADA, csrf: "new" },
    });
    await user.type(await screen.findByLabelText("Note"), "It hangs");
    await user.click(screen.getByRole("button", { name: "Add" }));
    expect(await screen.findByRole("dialog", { name: "You were signed out" })).toBeTruthy();
    await user.keyboard("{Escape}");
    expect(screen.getByRole("dialog")).toBeTruthy();
    await user.type(screen.getByLabelText("Password"), "secret");
    await user.click(screen.getByRole("button", { name: "Sign in" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(sent.at(-1)?.body).toEqual({ person: "ada", password: "secret" });
    expect(screen.getByLabelText<HTMLInputElement>("Note").value).toBe("It hangs");
    all[NOTE] = null;
    await user.click(screen.getByRole("button", { name: "Add" }));
    await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Note").value).toBe(""));
    // The same command: were the first one kept after all, it would not be done twice.
    const notes = sent.filter((s) => s.path.endsWith("/notes"));
    expect(notes).toHaveLength(2);
    expect(notes[0]?.id).toBe(notes[1]?.id);
  });

  it("is told where the password is wrong, and stays out", async () => {
    const { user } = open({
      "GET /api/desk": new Refusal(401, "Sign in first."),
      "POST /api/session": new Refusal(401, "Name or password is wrong."),
    });
    await screen.findByLabelText("Note");
    await api.get("/api/desk").catch(() => undefined);
    await user.type(await screen.findByLabelText("Password"), "guess");
    await user.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText(/Name or password is wrong/)).toBeTruthy();
    expect(screen.getByRole("dialog", { name: "You were signed out" })).toBeTruthy();
  });
});
