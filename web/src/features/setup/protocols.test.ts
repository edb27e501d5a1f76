import { describe, expect, it } from "vitest";
import type { Action, Connection } from "../../api/types";
import { called, protocolOf } from "./protocols";

describe("protocolOf", () => {
  it.each([
    ["ssh://dastur@host?hostkey=SHA256:x", ["RUN"]],
    ["dns://10.30.0.2", ["ASK", "UPDATE"]],
    ["https://lanes.kestrel.example", ["GET", "POST", "PUT", "PATCH", "DELETE"]],
    ["", ["GET", "POST", "PUT", "PATCH", "DELETE"]],
    [undefined, ["GET", "POST", "PUT", "PATCH", "DELETE"]],
  ])("%s", (address, methods) => {
    expect(protocolOf(address).methods).toEqual(methods);
  });
  it("asks for no path where a command is given", () => {
    expect(protocolOf("ssh://a@b").path).toBeNull();
  });
});

describe("called", () => {
  const action = (method: string, path: string, body?: string) =>
    ({ connection: "c", call: { method, path, body } }) as unknown as Action;
  const over = (base: string) => ({ key: "c", name: "The place", base }) as unknown as Connection;
  it.each([
    [action("GET", "/gates/{{ input.gate }}"), over("http://gates"), "GET http://gates/gates/{{ input.gate }}"],
    [
      action("RUN", "/", '["board","log","{{ input.board }}"]'),
      over("ssh://a@b"),
      "RUN board log {{ input.board }} on The place",
    ],
    [action("RUN", "/", "not a list"), undefined, "RUN not a list on c"],
    [action("ASK", "/wifi/A"), over("dns://b"), "ASK /wifi/A at The place"],
    [action("UPDATE", "/", '{"name":"wifi"}'), over("dns://b"), 'UPDATE {"name":"wifi"} at The place'],
  ])("%#", (a, connection, line) => {
    expect(called(a, connection)).toBe(line);
  });
});
