// @vitest-environment jsdom
import { act, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { ADA, DIRECTORY, show } from "../testing/stage";
import { api } from "./client";
import { useDirectory, useNames } from "./hooks";
import type { Directory } from "./types";

const seen: (Directory | undefined)[] = [];

function Says() {
  const names = useNames();
  const { data, refetch } = useDirectory();
  seen.push(data);
  return (
    <button type="button" onClick={() => refetch()}>
      {`${names.person("teo")}, ${names.person("nobody")}, ${names.group("managers")}`}
    </button>
  );
}

/** A server that tags its names, and says only that they are so still to who has them. */
function tagged(state: { tag: string; names: Directory }) {
  const asked: (string | undefined)[] = [];
  vi.stubGlobal("fetch", async (_: string, init: RequestInit) => {
    const had = (init.headers as Record<string, string>)["If-None-Match"];
    asked.push(had);
    const headers = { ETag: state.tag };
    return had === state.tag ? new Response(null, { status: 304, headers }) : Response.json(state.names, { headers });
  });
  return asked;
}

describe("names", () => {
  it("are read again in a few bytes, and stay the same object", async () => {
    const state = { tag: '"a"', names: DIRECTORY };
    const asked = tagged(state);
    show(<Says />, { as: ADA });
    const button = await screen.findByRole("button", { name: "Teo Marchetti, nobody, Duty managers" });
    const first = seen.at(-1);
    await act(async () => button.click());
    expect(asked).toEqual([undefined, '"a"']);
    expect(seen.at(-1)).toBe(first);

    state.tag = '"b"';
    state.names = { ...DIRECTORY, people: [{ id: "teo", name: "Teo Marchetti-Lind", active: true }] };
    await act(async () => button.click());
    await screen.findByRole("button", { name: "Teo Marchetti-Lind, nobody, Duty managers" });
    expect(asked.at(-1)).toBe('"a"');
  });

  it("that came without a tag are asked for whole", async () => {
    vi.stubGlobal("fetch", async () => Response.json(DIRECTORY));
    const first = await api.getAgain<Directory>("/api/directory", undefined);
    const asked = tagged({ tag: '"a"', names: DIRECTORY });
    await api.getAgain<Directory>("/api/directory", first);
    expect(asked).toEqual([undefined]);
  });
});
