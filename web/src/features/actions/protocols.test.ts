import { describe, expect, it } from "vitest";
import { kindOf, protocolOf } from "./protocols";

describe("protocolOf", () => {
  it.each([
    ["ssh://dastur@host?hostkey=SHA256:x", ["RUN"]],
    ["dns://10.30.0.2", ["ASK", "UPDATE"]],
    ["https://lanes.kestrel.example", ["GET", "POST", "PUT", "PATCH", "DELETE"]],
    ["", ["GET", "POST", "PUT", "PATCH", "DELETE"]],
    [undefined, ["GET", "POST", "PUT", "PATCH", "DELETE"]],
  ])("%s", (address, methods) => {
    expect(protocolOf(address).methods).toEqual(methods);
    expect(kindOf(address)).toBe(methods[0] === "RUN" ? "SSH" : methods[0] === "ASK" ? "DNS" : "HTTP");
  });
  it("asks for no path where a command is given", () => {
    expect(protocolOf("ssh://a@b").path).toBeNull();
  });
});
