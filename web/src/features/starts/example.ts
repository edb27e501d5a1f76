import type { HookView } from "../../api/types";

type Field = HookView["parameters"][number];

/** A value that shows what a parameter takes. */
function sample(field: Field): unknown {
  switch (field.type) {
    case "whole number":
      return 3;
    case "number":
      return 6.5;
    case "yes or no":
      return true;
    case "time":
      return "2026-11-29T04:15:00Z";
    case "list":
      return ["one", "two"];
    case "choice":
      return field.choices?.[0] ?? "";
    case "CI":
      return "the-id-of-a-CI";
    case "person":
      return "a-person";
    case "group":
      return "a-group";
    case "service":
      return "a-service";
    default:
      return "text";
  }
}

/** A body with a value for each parameter. */
export const exampleBody = (parameters: Field[]) =>
  JSON.stringify(Object.fromEntries(parameters.map((p) => [p.name, sample(p)])));

/** A call for a shell. @param token the token, or a word that stands for it */
export function exampleCall(address: string, parameters: Field[], token: string): string {
  return [
    `curl -X POST '${address}' \\`,
    `  -H 'Authorization: Bearer ${token}' \\`,
    "  -H 'Content-Type: application/json' \\",
    '  -H "Idempotency-Key: $(uuidgen)" \\',
    `  -d '${exampleBody(parameters).replaceAll("'", "'\\''")}'`,
  ].join("\n");
}

const SCHEMAS: Partial<Record<Field["type"], object>> = {
  "whole number": { type: "integer" },
  number: { type: "number" },
  "yes or no": { type: "boolean" },
  time: { type: "string", format: "date-time" },
  list: { type: "array", items: {} },
  "any value": {},
};

/** The hook as a fragment of OpenAPI 3.1, for those who make clients of it. */
export function openApi(path: string, name: string, parameters: Field[]): string {
  const properties = Object.fromEntries(
    parameters.map((p) => [
      p.name,
      {
        ...(SCHEMAS[p.type] ?? { type: "string" }),
        ...(p.choices ? { enum: p.choices } : {}),
        description: p.help ? `${p.label}. ${p.help}` : p.label,
      },
    ]),
  );
  const required = parameters.filter((p) => p.required).map((p) => p.name);
  const schema = { type: "object", properties, additionalProperties: false, ...(required.length ? { required } : {}) };
  return JSON.stringify(
    {
      [path]: {
        post: {
          summary: name,
          security: [{ bearer: [] }],
          requestBody: { required: required.length > 0, content: { "application/json": { schema } } },
          responses: {
            200: { description: "It has ended, and the caller had asked to wait" },
            202: { description: "It has started" },
            401: { description: "The token is not one of this hook" },
            422: { description: "A value is missing or wrong; 'where' names it" },
            429: { description: "Too much at once; Retry-After says when to come again" },
          },
        },
      },
    },
    null,
    2,
  );
}
