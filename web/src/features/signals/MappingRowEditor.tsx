import type { MappingRow, Reading } from "../../api/types";
import { Button, Input, Select } from "../../ui/kit";
import { labelOf } from "./mapping";
import { TableOfWords } from "./TableOfWords";

/** What stands in a row when it is closed: where it comes from, in words. */
function fromWords(row: MappingRow): string {
  switch (row.from.is) {
    case "at":
      return row.to === "ci" ? `whose ${row.by ?? "id"} is ${row.from.pointer}` : row.from.pointer;
    case "header":
      return `header ${row.from.name}`;
    case "text":
      return `“${row.from.text}”`;
  }
}

const tableWords = (n: number) => (n === 1 ? "by a table of 1 word" : `by a table of ${n} words`);

/** One row of a mapping: what it sets, where from, what it means of the sample that is shown. */
export function MappingRowEditor({
  row,
  cell,
  open,
  onOpen,
  onChange,
  onRemove,
}: {
  row: MappingRow;
  cell?: Reading["cells"][number];
  open: boolean;
  onOpen?: () => void;
  onChange: (row: MappingRow) => void;
  onRemove: () => void;
}) {
  const words = row.table ? Object.keys(row.table).length : 0;
  const summary = (
    <span className="grid grid-cols-[120px_1fr_minmax(120px,0.8fr)] items-baseline gap-x-3">
      <span className="text-ink-2">{labelOf(row)}</span>
      <span className="min-w-0 break-words">
        <span className={row.from.is === "at" ? "font-mono text-xs" : ""}>{fromWords(row)}</span>
        {row.part && (
          <span className="text-sm text-ink-2">
            {" "}
            where <code className="font-mono text-xs">{row.part}</code> fits
          </span>
        )}
        {words > 0 && <span className="text-sm text-ink-2"> {tableWords(words)}</span>}
      </span>
      <span className="min-w-0 break-words">
        {cell && (
          <>
            <span aria-hidden="true" className="text-ink-2">
              →{" "}
            </span>
            {cell.means === undefined || cell.means === null ? (
              <span className="text-ink-2">absent</span>
            ) : (
              <strong>{cell.means}</strong>
            )}
            {cell.note && <span className="block text-sm text-late">{cell.note}</span>}
          </>
        )}
      </span>
    </span>
  );
  return (
    <li className={`border-b border-hairline ${open ? "bg-raised" : ""}`}>
      {onOpen ? (
        <button type="button" aria-expanded={open} className="w-full py-2 text-left hover:bg-here" onClick={onOpen}>
          {summary}
        </button>
      ) : (
        <div className="py-2">{summary}</div>
      )}
      {open && (
        <div className="flex flex-col gap-3 px-3 pb-4">
          <div className="grid gap-3 sm:grid-cols-2">
            <Select
              label="It comes from"
              value={row.from.is}
              onChange={(is) =>
                onChange({
                  ...row,
                  from:
                    is === "header"
                      ? { is: "header", name: "user-agent" }
                      : is === "text"
                        ? { is: "text", text: "" }
                        : { is: "at", pointer: "/" },
                })
              }
              options={[
                { value: "at", label: "a place in what came" },
                { value: "header", label: "a header of the request" },
                { value: "text", label: "a text of ours, with values in {{ }}" },
              ]}
            />
            <From row={row} onChange={onChange} />
            {row.to === "value" && (
              <>
                <Input
                  label="Its name in conditions"
                  value={row.name ?? ""}
                  onChange={(e) => onChange({ ...row, name: e.target.value })}
                  help={`Conditions read it as signal.${row.name ?? ""}`}
                />
                <Select
                  label="It is"
                  value={row.type ?? "text"}
                  onChange={(type) => onChange({ ...row, type: type as MappingRow["type"] })}
                  options={["text", "whole number", "number", "yes or no", "time"].map((t) => ({ value: t, label: t }))}
                />
              </>
            )}
            {row.to === "ci" && (
              <Input
                label="A CI is found by its"
                value={row.by ?? "id"}
                onChange={(e) => onChange({ ...row, by: e.target.value || undefined })}
                help="id, name, address, or the name of an attribute. If none or more than one has it, that is said."
              />
            )}
          </div>
          {row.from.is !== "text" && (
            <Input
              label="Only the part of it that fits (empty: all of it)"
              className="font-mono"
              value={row.part ?? ""}
              onChange={(e) => onChange({ ...row, part: e.target.value || undefined })}
              help={
                "A regular expression (RE2), such as ^\\[(\\w+)\\] for the word in brackets: its group is taken, or all where it has none."
              }
            />
          )}
          {row.from.is !== "text" && <TableOfWords row={row} onChange={onChange} />}
          <div>
            <Button look="quiet" onClick={onRemove}>
              Take this row away
            </Button>
          </div>
        </div>
      )}
    </li>
  );
}

function From({ row, onChange }: { row: MappingRow; onChange: (row: MappingRow) => void }) {
  const { from } = row;
  switch (from.is) {
    case "at":
      return (
        <Input
          label="The place"
          className="font-mono"
          value={from.pointer}
          onChange={(e) => onChange({ ...row, from: { is: "at", pointer: e.target.value } })}
          help="A JSON Pointer (RFC 6901), such as /data/unit; or click on the value."
        />
      );
    case "header":
      return (
        <Input
          label="The header"
          value={from.name}
          onChange={(e) => onChange({ ...row, from: { is: "header", name: e.target.value } })}
          help="Kept are content-type, user-agent, webhook-id, idempotency-key and ce-…"
        />
      );
    case "text":
      return (
        <Input
          label="The text"
          value={from.text}
          onChange={(e) => onChange({ ...row, from: { is: "text", text: e.target.value } })}
          help="Such as {{ ci.name ?? 'A board' }} stands still"
        />
      );
  }
}
