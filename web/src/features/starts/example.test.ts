import { expect, it } from "vitest";
import type { HookView } from "../../api/types";
import { exampleBody, exampleCall, openApi } from "./example";

const PARAMETERS: HookView["parameters"] = [
  { name: "page", label: "Page", type: "text", required: true },
  { name: "seconds", label: "Seconds", type: "number", required: false },
  { name: "how", label: "How", type: "choice", required: false, choices: ["it's slow", "down"] },
];

it("shows a value for each parameter", () => {
  expect(JSON.parse(exampleBody(PARAMETERS))).toEqual({ page: "text", seconds: 6.5, how: "it's slow" });
});

it("writes a quote so that a shell reads it", () => {
  expect(exampleCall("http://x/in/hooks/a", PARAMETERS, "t")).toContain("it'\\''s slow");
});

it("describes what is needed and what may be chosen", () => {
  const post = JSON.parse(openApi("/in/hooks/a", "A", PARAMETERS))["/in/hooks/a"].post;
  const { schema } = post.requestBody.content["application/json"];
  expect(schema.required).toEqual(["page"]);
  expect(schema.properties.how.enum).toEqual(["it's slow", "down"]);
  expect(schema.additionalProperties).toBe(false);
});
