import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { useCatalogue, useNames } from "../../api/hooks";
import type { CalendarView, People } from "../../api/types";
import { Chip, Loading, PageHead, Trouble } from "../../ui/kit";
import { deedWords } from "../ticket/words";

/** People, groups, ladders and working calendars, to read. */
export function PeoplePage() {
  const people = useQuery({ queryKey: ["people"], queryFn: () => api.get<People>("/api/people") });
  const calendars = useQuery({ queryKey: ["calendars"], queryFn: () => api.get<CalendarView[]>("/api/calendars") });
  const catalogue = useCatalogue();
  const names = useNames();
  if (people.isPending) return <Loading what="people" />;
  if (people.isError)
    return (
      <div className="p-6">
        <Trouble error={people.error} onRetry={() => people.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead title="People" sub={`${people.data.people.length} people in ${people.data.groups.length} groups`} />
      <div
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        role="region"
        aria-label="People and groups"
        className="grid min-h-0 flex-1 overflow-auto lg:grid-cols-[1fr_380px]"
      >
        <table className="h-fit w-full bg-sheet text-left">
          <thead className="text-xs text-ink-2">
            <tr className="border-b border-hairline">
              <th className="py-1.5 pl-5 font-medium">Name</th>
              <th className="font-medium">Roles</th>
              <th className="font-medium">Groups</th>
              <th className="hidden pr-5 font-medium xl:table-cell">Mail</th>
            </tr>
          </thead>
          <tbody>
            {people.data.people.map((p) => (
              <tr key={p.id} className="h-9 border-b border-hairline">
                <td className="pl-5 font-medium whitespace-nowrap">
                  {p.name}
                  {!p.active && " (not active)"}
                </td>
                <td className="pr-3 text-ink-2">{p.roles.join(", ")}</td>
                <td className="pr-3">{p.groups.map(names.group).join(", ") || "—"}</td>
                <td className="hidden pr-5 font-mono text-xs xl:table-cell">{p.mail}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <aside className="border-l border-hairline p-5">
          <h2 className="mb-2 font-bold">Ladders</h2>
          {(catalogue.data?.ladders ?? []).map((l) => (
            <section key={l.key} className="mb-4">
              <h3 className="font-semibold">{l.name}</h3>
              <ol>
                {l.rungs.map((r, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: rungs have no other name than their place
                  <li key={i} className="flex gap-3">
                    <span className="w-20 shrink-0 text-right text-ink-2">{String(r.after)}</span>
                    <span>{deedWords(r.deed, names)}</span>
                  </li>
                ))}
              </ol>
            </section>
          ))}
          <h2 className="mt-6 mb-2 font-bold">Working calendars</h2>
          {(calendars.data ?? []).map(({ calendar: c, openNow }) => (
            <section key={c.key} className="mb-4">
              <h3 className="flex items-center gap-2 font-semibold">
                {c.name} <Chip tone={openNow ? "well" : "plain"}>{openNow ? "open now" : "closed now"}</Chip>
              </h3>
              <p className="text-ink-2">{c.zone}</p>
              {Object.entries(c.hours).map(([d, hours]) => (
                <p key={d} className="flex gap-3">
                  <span className="w-20 shrink-0 text-right text-ink-2">
                    {d.slice(0, 1) + d.slice(1, 3).toLowerCase()}
                  </span>
                  {hours.map((h) => `${h.from.slice(0, 5)}–${h.to.slice(0, 5)}`).join(", ")}
                </p>
              ))}
            </section>
          ))}
        </aside>
      </div>
    </>
  );
}
