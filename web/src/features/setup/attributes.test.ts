import { describe, expect, it } from "vitest";
import type { Directory, Field } from "../../api/types";
import { attributesOf, lacking } from "./attributes";
import { kindsOf } from "./FieldsDialog";

const field = (name: string, required = false): Field => ({ name, label: name.toUpperCase(), type: "text", required });
const directory = {
  ciFields: [field("kind"), field("lane", true), field("model", true), field("size")],
  ciKinds: { lane: ["gate"], size: ["machine", "disk"] },
} as unknown as Directory;

describe("attributes of CIs", () => {
  it("are those of the kind, and those of all kinds", () => {
    expect(attributesOf(directory, "gate").map((f) => f.name)).toEqual(["lane", "model"]);
    expect(attributesOf(directory, " disk ").map((f) => f.name)).toEqual(["model", "size"]);
    expect(attributesOf(undefined, "gate")).toEqual([]);
  });

  it("are lacking where the kind needs them", () => {
    expect(lacking(directory, { kind: "gate", attributes: { model: "x" } })).toEqual(["LANE"]);
    expect(lacking(directory, { kind: "board", attributes: { model: "" } })).toEqual(["MODEL"]);
  });

  it("have kinds that are typed with commas", () => {
    expect(kindsOf(" gate, kiosk,,gate ")).toEqual(["gate", "kiosk"]);
    expect(kindsOf(undefined)).toEqual([]);
  });
});
