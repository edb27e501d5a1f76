// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Action } from "../../api/types";
import { ADA, pick, play, show } from "../../testing/stage";
import { headersOf, otherHeaders, Paging, SentBody, typeOf } from "./Sent";
import { type SignIn, SignInForm } from "./SignInForm";

const GET: Action = {
  key: "parts.list",
  name: "List",
  description: "",
  connection: "parts",
  call: { method: "GET", path: "/parts" },
  inputs: [],
  outputs: [],
  results: [],
  repeat: "free",
  changesWorld: false,
  timeLimit: "20 s",
  tries: 1,
  pause: "5 s",
};

function Both({ first, onSeen }: { first: Action; onSeen: (call: Action["call"]) => void }) {
  const [draft, setDraft] = useState(first);
  const set = (change: Partial<Action>) => {
    const next = { ...draft, ...change };
    setDraft(next);
    onSeen(next.call);
  };
  return (
    <>
      <SentBody draft={draft} set={set} />
      <Paging draft={draft} set={set} />
    </>
  );
}

describe("as what a body goes out", () => {
  it("is said by its header, and other headers stay", async () => {
    play({});
    let call = GET.call;
    const headers = { "Idempotency-Key": "{{ call.key }}" };
    show(<Both first={{ ...GET, call: { ...GET.call, method: "POST", headers } }} onSeen={(c) => (call = c)} />, {
      as: ADA,
    });
    await pick(await screen.findByLabelText("Sent as"), "a form");
    expect(call.headers).toEqual({ "Content-Type": "application/x-www-form-urlencoded", ...headers });
    expect(screen.getByLabelText("Its fields (JSON)")).toBeTruthy();
    await pick(screen.getByLabelText("Sent as"), "JSON");
    expect(call.headers).toEqual(headers);
    expect(screen.queryByLabelText(/pages/)).toBeNull();
  });

  it("is kept while other headers are typed, and one that nobody knows stands by its name", async () => {
    const before = { "content-type": "application/soap+xml", A: "1" };
    expect(typeOf(before)).toBe("application/soap+xml");
    expect(otherHeaders(before)).toEqual([["A", "1"]]);
    expect(headersOf([["B", "2"]], before)).toEqual({ "Content-Type": "application/soap+xml", B: "2" });
    expect(headersOf([["content-type", "text/plain"]], before)).toEqual({ "content-type": "text/plain" });
    expect(headersOf([], undefined)).toBeUndefined();
    play({});
    show(<SentBody draft={{ ...GET, call: { ...GET.call, method: "POST", headers: before } }} set={() => {}} />, {
      as: ADA,
    });
    expect(await screen.findByLabelText("Body (application/soap+xml)")).toBeTruthy();
  });
});

describe("pages of an answer", () => {
  it("are asked for where the header or a place says the next", async () => {
    play({});
    let call = GET.call;
    show(<Both first={GET} onSeen={(c) => (call = c)} />, { as: ADA });
    const user = userEvent.setup();
    await user.click(await screen.findByLabelText(/comes in pages/));
    expect(call.pages).toEqual({ itemsAt: "/items", most: 20 });
    await user.type(screen.getByLabelText("Where the next page is"), "/next");
    expect(call.pages).toEqual({ itemsAt: "/items", nextAt: "/next", most: 20 });
    await user.click(screen.getByLabelText(/comes in pages/));
    expect(call.pages).toBeUndefined();
  });
});

function Form({ onSeen }: { onSeen: (value: SignIn) => void }) {
  const [value, setValue] = useState<SignIn>({ is: "bearer" });
  return (
    <SignInForm
      value={value}
      onChange={(next) => {
        onSeen(next);
        setValue(next);
      }}
      at={(field) => (field === "signIn.client" ? "A client's name has 1 to 200 characters." : undefined)}
    />
  );
}

describe("how a connection signs in", () => {
  it("asks for what its way needs", async () => {
    play({});
    let seen: SignIn = { is: "bearer" };
    show(<Form onSeen={(next) => (seen = next)} />, { as: ADA });
    const user = userEvent.setup();
    await pick(await screen.findByLabelText("How it signs in"), "as a password");
    await user.type(screen.getByLabelText("Name to sign in with"), "dastur");
    expect(seen).toEqual({ is: "basic", user: "dastur" });
    await pick(screen.getByLabelText("How it signs in"), "for a token of a client");
    await user.type(screen.getByLabelText("Where tokens are given"), "https://t");
    await user.type(screen.getByLabelText("Scope"), "r");
    expect(seen).toEqual({ is: "client credentials", tokenAddress: "https://t", client: "", scope: "r" });
    expect(screen.getByText("A client's name has 1 to 200 characters.")).toBeTruthy();
    await pick(screen.getByLabelText("How it signs in"), "in a header of its own");
    expect(screen.getByLabelText("Header")).toBeTruthy();
    await pick(screen.getByLabelText("How it signs in"), "as a certificate");
    expect(seen).toEqual({ is: "certificate" });
  });
});
