import { expect, test } from "vitest";
import type { Field } from "../../api/types";
import { outputsOf } from "./ActionForm";
import { protocolOf } from "./protocols";

const field = (name: string): Field => ({ name, label: name, type: "text", required: false });

test("an output that was never placed follows its name; one that was keeps its place (D7)", () => {
  const fresh = outputsOf([field("new1")], []);
  expect(fresh[0]?.pointer).toBe("/new1");
  expect(outputsOf([field("lock")], fresh)[0]?.pointer).toBe("/lock");
  const placed = [{ field: field("new1"), pointer: "/data/lock" }];
  expect(outputsOf([field("lock")], placed)[0]?.pointer).toBe("/data/lock");
});

test("the example of a body becomes JSON when a text is put in (D8)", () => {
  const body = protocolOf("https://lanes.kestrel.example").body.example.replace("{{ input.lane }}", "ALD-G1");
  expect(JSON.parse(body)).toEqual({ lane: "ALD-G1" });
});
