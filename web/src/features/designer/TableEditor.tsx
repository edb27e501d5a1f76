import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { api } from "../../api/client";
import type { StepOf, Version } from "../../api/types";
import { Button, Input, Select, Trouble } from "../../ui/kit";
import { saveFile } from "./files";
import { TAKEN, ValueOf } from "./ValueEditor";

type Branch = StepOf<"branch">;
type Table = NonNullable<Branch["table"]>;

interface ReadTable {
  name: string;
  table: Table;
  adapted: string[];
  leftOut: string[];
}

const CELL =
  "w-full min-w-16 rounded-md border border-hairline bg-sheet px-1.5 py-1 font-mono text-xs focus:border-pine";

/** A decision as a table: a column for each input, a row for each case; comes from and goes to DMN. */
export function TableEditor({
  step,
  table,
  version,
  onChange,
}: {
  step: Branch;
  table: Table;
  version: Version;
  onChange: (s: Branch) => void;
}) {
  const file = useRef<HTMLInputElement>(null);
  const put = (change: Partial<Table>) => onChange({ ...step, table: { ...table, ...change } });
  const row = (r: number, change: Partial<Table["rows"][number]>) =>
    put({ rows: table.rows.map((x, i) => (i === r ? { ...x, ...change } : x)) });
  const write = useMutation({
    mutationFn: () =>
      api.post<{ name: string; type: string; text: string }>("/api/files/table/write", { name: step.name, table }),
    onSuccess: saveFile,
  });
  const read = useMutation({
    mutationFn: async (f: File) => api.post<ReadTable>("/api/files/table/read", { text: await f.text() }),
    onSuccess: (r) => onChange({ ...step, table: r.table }),
  });
  return (
    <div className="flex flex-col gap-2">
      {table.inputs.map((input, c) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a column's heading is what is being typed
        <div key={c} className="flex flex-col gap-1 rounded-lg border border-hairline p-2">
          <Input
            label={`Column ${c + 1}`}
            value={input.label}
            onChange={(e) =>
              put({ inputs: table.inputs.map((x, i) => (i === c ? { ...x, label: e.target.value } : x)) })
            }
          />
          <ValueOf
            label="reads"
            of={`Column ${c + 1}`}
            field={TAKEN}
            version={version}
            value={input.value}
            onChange={(value) => put({ inputs: table.inputs.map((x, i) => (i === c ? { ...x, value } : x)) })}
          />
          {table.inputs.length > 1 && (
            <Button
              look="quiet"
              onClick={() =>
                put({
                  inputs: table.inputs.filter((_, i) => i !== c),
                  rows: table.rows.map((x) => ({ ...x, cells: x.cells.filter((_, i) => i !== c) })),
                })
              }
            >
              Leave the column out
            </Button>
          )}
        </div>
      ))}
      <Button
        onClick={() =>
          put({
            inputs: [...table.inputs, { label: `Column ${table.inputs.length + 1}`, value: "" }],
            rows: table.rows.map((x) => ({ ...x, cells: [...x.cells, "-"] })),
          })
        }
      >
        Add a column
      </Button>
      <div className="overflow-x-auto">
        <table className="w-full text-left text-xs">
          <caption className="sr-only">Rows of the table</caption>
          <thead>
            <tr className="text-ink-2">
              {table.inputs.map((input, c) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: columns have no id
                <th key={c} scope="col" className="pr-1 font-semibold">
                  {input.label}
                </th>
              ))}
              <th scope="col" className="pr-1 font-semibold">
                case
              </th>
              <th>
                <span className="sr-only">Leave out</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {table.rows.map((x, r) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows have no id
              <tr key={r}>
                {x.cells.map((cell, c) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: cells have no id
                  <td key={c} className="py-0.5 pr-1">
                    <input
                      aria-label={`${table.inputs[c]?.label ?? "Cell"} in row ${r + 1}`}
                      className={CELL}
                      value={cell}
                      onChange={(e) => row(r, { cells: x.cells.map((y, i) => (i === c ? e.target.value : y)) })}
                    />
                  </td>
                ))}
                <td className="py-0.5 pr-1">
                  <input
                    aria-label={`Case of row ${r + 1}`}
                    className={CELL.replace("font-mono ", "")}
                    value={x.result}
                    onChange={(e) => row(r, { result: e.target.value })}
                  />
                </td>
                <td>
                  <button
                    type="button"
                    className="px-1 text-ink-2 hover:text-ink"
                    aria-label={`Leave row ${r + 1} out`}
                    onClick={() => put({ rows: table.rows.filter((_, i) => i !== r) })}
                  >
                    ✕
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="text-xs text-ink-2">
        A cell tests its column: <code>-</code> anything, <code>"ALD", "GNQ"</code>, <code>&gt;= 3</code>,{" "}
        <code>[1..3]</code>, <code>not("x")</code>. What no row matches takes “otherwise”.
      </p>
      <div className="flex flex-wrap gap-1.5">
        <Button
          onClick={() =>
            put({
              rows: [...table.rows, { cells: table.inputs.map(() => "-"), result: `case ${table.rows.length + 1}` }],
            })
          }
        >
          Add a row
        </Button>
        <Button disabled={write.isPending} onClick={() => write.mutate()}>
          Save as DMN
        </Button>
        <Button onClick={() => file.current?.click()}>From DMN…</Button>
        <input
          ref={file}
          type="file"
          accept=".dmn,.xml"
          aria-label="DMN file"
          className="hidden"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) read.mutate(chosen);
            e.target.value = "";
          }}
        />
      </div>
      <Select
        label="When several rows match"
        value={table.hit}
        onChange={(picked) => put({ hit: picked as Table["hit"] })}
        options={[
          { value: "first", label: "the first from above counts" },
          { value: "unique", label: "that is a fault: at most one may" },
        ]}
      />
      {(read.isError || write.isError) && <Trouble error={read.error ?? write.error} />}
      {read.data && (read.data.adapted.length > 0 || read.data.leftOut.length > 0) && (
        <ul role="status" className="text-xs text-soon">
          {read.data.adapted.map((a) => (
            <li key={a}>Adapted: {a}</li>
          ))}
          {read.data.leftOut.map((l) => (
            <li key={l}>Left out: {l}</li>
          ))}
        </ul>
      )}
    </div>
  );
}
