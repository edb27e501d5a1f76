import type { Action } from "../../api/types";
import { Check } from "../../ui/Check";
import { Input, Select, TextArea } from "../../ui/kit";

type Headers = Action["call"]["headers"];

interface As {
  type: string;
  label: string;
  body: string;
  example: string;
}

const JSON_BODY: As = { type: "", label: "JSON", body: "Body (JSON)", example: '{"lane": "{{ input.lane }}"}' };

/** As what a body goes out; what says so is the header Content-Type. */
export const SENT_AS: As[] = [
  JSON_BODY,
  {
    type: "application/x-www-form-urlencoded",
    label: "a form",
    body: "Its fields (JSON)",
    example: '{"lane": "{{ input.lane }}"}',
  },
  {
    type: "multipart/form-data",
    label: "a form with files",
    body: "Its parts (JSON)",
    example: '{"list": {"file": "lanes.csv", "type": "text/csv", "text": "lane\\n{{ input.lane }}"}}',
  },
  { type: "application/xml", label: "XML", body: "Body (XML)", example: "<lane>{{ input.lane }}</lane>" },
  { type: "text/plain", label: "text", body: "Body", example: "{{ input.lane }}" },
];

const isType = (name: string) => name.toLowerCase() === "content-type";

/** The type that the headers say; empty for none, which is JSON. */
export const typeOf = (headers: Headers) => Object.entries(headers ?? {}).find(([name]) => isType(name))?.[1] ?? "";

/** All other headers. */
export const otherHeaders = (headers: Headers) => Object.entries(headers ?? {}).filter(([name]) => !isType(name));

/** Rows of headers with the type that was said before, unless one of them says another. */
export function headersOf(rows: [string, string][], before: Headers): Headers {
  const type = typeOf(before);
  const all: [string, string][] =
    type && !rows.some(([name]) => isType(name)) ? [["Content-Type", type], ...rows] : rows;
  return all.length > 0 ? Object.fromEntries(all) : undefined;
}

/** The body of a call over HTTP, and as what it goes out. */
export function SentBody({
  draft,
  set,
  problem,
}: {
  draft: Action;
  set: (change: Partial<Action>) => void;
  problem?: string;
}) {
  // A question has no body that others read; one that is there all the same is shown, so that it can be taken out.
  if (draft.call.method === "GET" && !draft.call.body) return null;
  const type = typeOf(draft.call.headers);
  const known = SENT_AS.find((s) => s.type === type);
  const as = known ?? { ...JSON_BODY, type, label: type, body: `Body (${type})` };
  const send = (next: string) => {
    const others = otherHeaders(draft.call.headers);
    const headers: [string, string][] = next ? [["Content-Type", next], ...others] : others;
    set({ call: { ...draft.call, headers: headers.length > 0 ? Object.fromEntries(headers) : undefined } });
  };
  return (
    <div className="flex flex-col gap-2">
      <div className="w-56">
        <Select
          label="Sent as"
          value={type}
          onChange={send}
          options={[...(known ? SENT_AS : [...SENT_AS, as])].map((s) => ({ value: s.type, label: s.label }))}
        />
      </div>
      <TextArea
        label={as.body}
        rows={3}
        className="font-mono text-xs"
        value={draft.call.body ?? ""}
        problem={problem}
        onChange={(e) => set({ call: { ...draft.call, body: e.target.value || undefined } })}
        placeholder={as.example}
      />
    </div>
  );
}

/** An answer that comes in pages is read as one. */
export function Paging({ draft, set }: { draft: Action; set: (change: Partial<Action>) => void }) {
  const { pages, method } = draft.call;
  const keep = (next: Action["call"]["pages"]) => set({ call: { ...draft.call, pages: next } });
  if (method !== "GET" && !pages) return null;
  return (
    <fieldset>
      <legend className="sr-only">Pages</legend>
      <Check
        label="Its answer comes in pages, which are read as one"
        checked={pages !== undefined}
        onChange={(picked) => keep(picked ? { itemsAt: "/items", most: 20 } : undefined)}
      />
      {pages && (
        <div className="mt-1 grid gap-2 sm:grid-cols-3">
          <Input
            label="The list of each page"
            required
            value={pages.itemsAt}
            onChange={(e) => keep({ ...pages, itemsAt: e.target.value })}
          />
          <Input
            label="Where the next page is"
            placeholder="the header Link says it"
            value={pages.nextAt ?? ""}
            onChange={(e) => keep({ ...pages, nextAt: e.target.value || undefined })}
          />
          <Input
            label="Pages at most"
            type="number"
            min={2}
            max={50}
            required
            value={pages.most}
            onChange={(e) => keep({ ...pages, most: Number(e.target.value) })}
          />
        </div>
      )}
    </fieldset>
  );
}
