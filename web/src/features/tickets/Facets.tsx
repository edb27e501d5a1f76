import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Facet } from "../../api/types";
import { Check } from "../../ui/Check";
import { Select } from "../../ui/kit";
import { When } from "../../ui/When";
import { day } from "../../ui/when";
import { seesAll, useSession } from "../signin/session";
import { asked } from "./columns";

const LABELS: Record<string, string> = {
  priority: "Priority",
  kind: "Kind",
  state: "State",
  group: "With",
  service: "Service",
};

/** What the list can be narrowed to, with how many there are; a chosen one is taken back by a click. */
export function Facets({ filter, onChange }: { filter: URLSearchParams; onChange: (next: URLSearchParams) => void }) {
  const names = useNames();
  const { session } = useSession();
  const facets = useQuery({
    queryKey: ["tickets", "facets", asked(filter).toString()],
    queryFn: () => api.get<Facet[]>(`/api/facets?${asked(filter)}`),
    placeholderData: keepPreviousData,
  });
  const say = (f: Facet) =>
    f.field === "group" ? names.group(f.value) : f.field === "service" ? names.service(f.value) : f.value;
  const set = (field: string, value: string | undefined) => {
    const next = new URLSearchParams(filter);
    if (value === undefined) next.delete(field);
    else next.set(field, value);
    onChange(next);
  };
  const people = (names.directory?.people ?? []).map((p) => ({ value: p.id, label: p.name }));
  return (
    <aside
      aria-label="Narrow down"
      className="hidden w-52 shrink-0 overflow-auto border-r border-hairline bg-raised p-4 lg:block"
    >
      {Object.entries(LABELS).map(([field, label]) => {
        const chosen = filter.get(field);
        const values = (facets.data ?? []).filter((f) => f.field === field);
        if (values.length === 0 && !chosen) return null;
        return (
          <section key={field} className="mb-4">
            <h2 className="mb-1 text-xs font-semibold text-ink-2">{label}</h2>
            <ul>
              {values.map((f) => (
                <li key={f.value}>
                  <button
                    type="button"
                    aria-pressed={chosen === f.value}
                    className={`flex w-full justify-between gap-2 rounded px-1.5 py-0.5 text-left ${chosen === f.value ? "bg-selected font-semibold" : "hover:bg-here"}`}
                    onClick={() => set(field, chosen === f.value ? undefined : f.value)}
                  >
                    <span className="truncate">{say(f)}</span>
                    <span className="text-ink-2">{f.count}</span>
                  </button>
                </li>
              ))}
              {chosen && values.length === 0 && (
                <li>
                  <button type="button" className="link text-sm" onClick={() => set(field, undefined)}>
                    not only {chosen}
                  </button>
                </li>
              )}
            </ul>
          </section>
        );
      })}
      <section
        className={`flex flex-col gap-3 border-t border-hairline pt-3 ${facets.isPending || !names.directory ? "invisible" : ""}`}
      >
        <h2 className="text-xs font-semibold text-ink-2">More</h2>
        <Select
          label="Who has it"
          value={filter.get("assignee") ?? ""}
          onChange={(picked) => set("assignee", picked || undefined)}
          options={[{ value: "", label: "anybody" }, ...people]}
        />
        <Select
          label="Who asked"
          value={filter.get("requester") ?? ""}
          onChange={(picked) => set("requester", picked || undefined)}
          options={[{ value: "", label: "anybody" }, ...people]}
        />
        {seesAll(session) && (
          <Check
            label="Tests instead"
            checked={filter.get("tests") === "true"}
            onChange={(is) => set("tests", is ? "true" : undefined)}
          />
        )}
        <When
          label="Raised from"
          kind="day"
          value={asDay(filter.get("raisedFrom"), 0)}
          onChange={(d) => set("raisedFrom", startOf(d, 0))}
        />
        <When
          label="Raised until"
          kind="day"
          value={asDay(filter.get("raisedBefore"), -1)}
          onChange={(d) => set("raisedBefore", startOf(d, 1))}
        />
      </section>
    </aside>
  );
}

/** The moment at which a day begins here, or the one so many days after it; undefined for none. */
const startOf = (day: string, after: number) => {
  if (!day) return undefined;
  const at = new Date(`${day}T00:00`);
  at.setDate(at.getDate() + after);
  return at.toISOString().replace(".000Z", "Z");
};

/** The day that such a moment begins, or the one so many days after it. */
const asDay = (moment: string | null, after: number) => {
  if (!moment) return "";
  const at = new Date(moment);
  at.setDate(at.getDate() + after);
  return day(at);
};
