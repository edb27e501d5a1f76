import type { SideBySide } from "../../api/types";
import { Select } from "../../ui/kit";
import { saidWords, valueWords } from "../ticket/words";

type Change = SideBySide["values"][number]["change"];

const MARKS: Record<Change, { sign: string; look: string }> = {
  same: { sign: "=", look: "text-ink-2" },
  changed: { sign: "≠", look: "font-semibold" },
  gone: { sign: "−", look: "font-semibold" },
  new: { sign: "+", look: "font-semibold" },
  "turned good": { sign: "✓", look: "font-semibold text-well" },
  "turned bad": { sign: "✗", look: "font-semibold text-late" },
  "not known": { sign: "?", look: "font-semibold text-soon" },
};

/** A sign with its word: never a colour alone. */
function Mark({ change, word }: { change: Change; word?: string }) {
  const mark = MARKS[change];
  return (
    <span className={`whitespace-nowrap ${mark.look}`}>
      <span aria-hidden="true" className="inline-block w-4 text-center">
        {mark.sign}
      </span>{" "}
      {word ?? change}
    </span>
  );
}

const NO_VALUE = <span className="text-ink-2 italic">no value</span>;

/** What looks the same in words and is not stands as it came. */
const apart = (words: [string, string], before: unknown, after: unknown): [string, string] =>
  words[0] === words[1] ? [JSON.stringify(before), JSON.stringify(after)] : words;

/** Whether it is one thing before and after, and not two things. */
const overTime = (heads: [string, string]) => heads[0] === "Before";

const head = "py-1 pr-4 text-left font-semibold text-ink-2";
const cell = "border-t border-hairline py-1.5 pr-4 align-top wrap-anywhere";

/** Everything that is compared, or what differs. */
export function Differences({
  sides,
  all,
  label,
  heads,
  words,
  keys,
  onKey,
}: {
  sides: SideBySide;
  all: boolean;
  /** How a value is called. */
  label: (name: string) => string;
  /** How the two sides are called. */
  heads: [string, string];
  /** A value as people say it. */
  words: (name: string, value: unknown) => string;
  keys: Record<string, string>;
  onKey: (table: string, column: string) => void;
}) {
  const shown = <T extends { change: Change }>(lines: T[]) => (all ? lines : lines.filter((l) => l.change !== "same"));
  const rules = shown(sides.rules);
  const values = shown(sides.values);
  const lists = shown(sides.lists);
  const tables = shown(sides.tables);
  return (
    <>
      {rules.length > 0 && <Rules rules={rules} heads={heads} />}
      {values.length > 0 && (
        <section aria-label="Values" className="mb-6">
          <h2 className="font-bold">Values</h2>
          <table className="w-full table-fixed">
            <Columns first="Value" heads={heads} />
            <tbody>
              {values.map((v) => {
                const said: [string, string] = [words(v.name, v.before), words(v.name, v.after)];
                const [before, after] = v.change === "changed" ? apart(said, v.before, v.after) : said;
                return (
                  <tr key={v.name}>
                    <th scope="row" className={`${cell} text-left font-normal`}>
                      {label(v.name)}
                    </th>
                    <td className={cell}>
                      <Mark
                        change={v.change}
                        word={v.change === "changed" && !overTime(heads) ? "differs" : undefined}
                      />
                    </td>
                    <td className={cell}>{v.before === undefined || v.before === null ? NO_VALUE : before}</td>
                    <td className={`${cell} ${v.change === "changed" ? "font-semibold" : ""}`}>
                      {v.after === undefined || v.after === null ? NO_VALUE : after}
                      {v.by !== undefined && v.by !== null && (
                        <span className="ml-2 font-normal text-ink-2">
                          {v.by > 0 ? "+" : "−"}
                          {valueWords(Math.abs(v.by))}
                        </span>
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </section>
      )}
      {lists.map((l) => (
        <Items key={l.name} list={l} all={all} label={label} />
      ))}
      {tables.map((t) => (
        <Rows key={t.name} table={t} all={all} label={label} chosen={keys[t.name]} onKey={onKey} />
      ))}
    </>
  );
}

function Columns({ first, heads }: { first: string; heads: [string, string] }) {
  return (
    <thead>
      <tr>
        <th scope="col" className={`${head} w-[26%]`}>
          {first}
        </th>
        <th scope="col" className={`${head} w-28`}>
          {overTime(heads) ? "What became" : "Alike"}
        </th>
        <th scope="col" className={head}>
          {heads[0]}
        </th>
        <th scope="col" className={head}>
          {heads[1]}
        </th>
      </tr>
    </thead>
  );
}

function Rules({ rules, heads }: { rules: SideBySide["rules"]; heads: [string, string] }) {
  const seen = (rule: SideBySide["rules"][number]["before"]) =>
    rule ? (
      <>
        <span className={rule.holds ? "text-well" : "font-semibold text-late"}>
          {rule.holds ? "✓ held" : "✗ did not hold"}
        </span>
        <span className="block text-sm text-ink-2">{saidWords(rule.why)}</span>
      </>
    ) : (
      <span className="text-ink-2 italic">not judged</span>
    );
  return (
    <section aria-label="Rules" className="mb-6">
      <h2 className="font-bold">Rules</h2>
      <table className="w-full table-fixed">
        <Columns first="Rule" heads={heads} />
        <tbody>
          {rules.map((r) => (
            <tr key={r.name}>
              <th scope="row" className={`${cell} text-left font-normal`}>
                {r.name}
              </th>
              <td className={cell}>
                <Mark change={r.change} />
              </td>
              <td className={cell}>{seen(r.before)}</td>
              <td className={cell}>{seen(r.after)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** "12, then 11"; where one side has none at all, that is said instead of a number. */
const counts = (what: string, before?: number | null, after?: number | null) =>
  `${before ?? "no value"} ${what} before, ${after ?? "no value"} after`;

function Items({
  list,
  all,
  label,
}: {
  list: SideBySide["lists"][number];
  all: boolean;
  label: (name: string) => string;
}) {
  const items = all ? list.items : list.items.filter((i) => i.change !== "same");
  return (
    <section aria-label={label(list.name)} className="mb-6">
      <h2 className="font-bold">
        {label(list.name)} <span className="font-normal text-ink-2">{counts("entries", list.before, list.after)}</span>
      </h2>
      <ul className="columns-1 lg:columns-2">
        {items.map((i, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: one thing may stand in a list several times
          <li key={n} className="flex gap-4 py-0.5">
            <span className="w-28 shrink-0">
              <Mark change={i.change} />
            </span>
            <span className={`wrap-anywhere ${i.change === "gone" ? "line-through" : ""}`}>{valueWords(i.value)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** More rows are not drawn at once. */
const MOST = 200;

function Rows({
  table,
  all,
  label,
  chosen,
  onKey,
}: {
  table: SideBySide["tables"][number];
  all: boolean;
  label: (name: string) => string;
  chosen: string | undefined;
  onKey: (table: string, column: string) => void;
}) {
  const rows = all ? table.rows : table.rows.filter((r) => r.change !== "same");
  const columns = [...table.columns].sort((a, b) => Number(b === table.key) - Number(a === table.key));
  return (
    <section aria-label={label(table.name)} className="mb-6">
      <div className="flex flex-wrap items-end gap-x-6">
        <h2 className="font-bold">
          {label(table.name)}{" "}
          <span className="font-normal text-ink-2">{counts("rows", table.before, table.after)}</span>
        </h2>
        {table.keys.length > 0 ? (
          <Select
            label={`Rows of ${label(table.name)} are named by`}
            options={table.keys.map((k) => ({ value: k, label: k }))}
            value={chosen ?? table.key ?? undefined}
            onChange={(k) => onKey(table.name, k)}
          />
        ) : (
          <p className="text-sm text-ink-2">No column names the rows on both sides, so they are compared whole.</p>
        )}
      </div>
      <div className="overflow-auto">
        <table className="mt-1 w-full text-sm">
          <thead>
            <tr>
              <th scope="col" className={`${head} w-28`}>
                What became
              </th>
              {columns.map((c) => (
                <th key={c} scope="col" className={head}>
                  {c}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, MOST).map((r, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows may be the same where nothing names them
              <tr key={n}>
                <td className={cell}>
                  <Mark change={r.change} />
                </td>
                {columns.map((c) => {
                  const cells = [r.before?.[c], r.after?.[c]] as const;
                  const [before, after] = apart([valueWords(cells[0]), valueWords(cells[1])], ...cells);
                  return (
                    <td key={c} className={`${cell} ${r.change === "gone" ? "line-through" : ""}`}>
                      {r.differs.includes(c) ? (
                        <>
                          {r.before?.[c] === undefined ? NO_VALUE : before} <span className="text-ink-2">→</span>{" "}
                          <strong>{r.after?.[c] === undefined ? NO_VALUE : after}</strong>
                        </>
                      ) : (
                        valueWords((r.after ?? r.before)?.[c])
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.length > MOST && <p className="text-sm text-ink-2">{rows.length - MOST} more rows are not shown.</p>}
    </section>
  );
}
