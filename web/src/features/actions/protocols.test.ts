import { describe, expect, it } from "vitest";
import { kindOf, protocolOf } from "./protocols";

describe("protocolOf", () => {
  it.each([
    ["ssh://dastur@host?hostkey=SHA256:x", ["RUN"]],
    ["dns://10.30.0.2", ["ASK", "UPDATE"]],
    ["ldaps://host/dc=kestrel", ["SEARCH", "JOIN", "LEAVE", "CREATE", "MODIFY"]],
    ["postgresql://dastur@db/fleet", ["QUERY", "CHANGE"]],
    ["sftp://dastur@host/traces?hostkey=SHA256:x", ["LIST", "FETCH", "STORE", "RENAME", "REMOVE"]],
    ["https://lanes.kestrel.example", ["GET", "POST", "PUT", "PATCH", "DELETE"]],
    ["relay://mooring-data-room/machines?as=http", ["GET", "POST", "PUT", "PATCH", "DELETE"]],
    ["relay://mooring-data-room/db?as=postgresql", ["QUERY", "CHANGE"]],
    ["relay://mooring-data-room/scripts?as=script", ["START"]],
    ["", ["GET", "POST", "PUT", "PATCH", "DELETE"]],
    [undefined, ["GET", "POST", "PUT", "PATCH", "DELETE"]],
  ])("%s", (address, methods) => {
    expect(protocolOf(address).methods).toEqual(methods);
    const kinds: Record<string, string> = {
      RUN: "SSH",
      ASK: "DNS",
      QUERY: "SQL",
      LIST: "SFTP",
      SEARCH: "LDAP",
      GET: "HTTP",
      START: "script",
    };
    expect(kindOf(address)).toBe(kinds[methods[0] as string]);
  });
  it("asks for no path where a command is given", () => {
    expect(protocolOf("ssh://a@b").path).toBeNull();
  });
});
