import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { People } from "../../api/types";
import { Button, Loading, PageHead, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { AccountDialog } from "../setup/AccountDialog";
import { PeopleCsvDialog } from "../setup/CsvDialog";
import { GroupDialog } from "../setup/GroupDialog";
import { administers, designs, useSession } from "../signin/session";

type Opened = {
  account?: People["people"][number] | "new";
  group?: People["groups"][number] | "new";
  csv?: boolean;
};

/** Accounts and groups: who is here, what they may do, where they belong. */
export function PeoplePage() {
  const people = useQuery({ queryKey: ["people"], queryFn: () => api.get<People>("/api/people") });
  const names = useNames();
  const now = useNow();
  const { session } = useSession();
  const may = administers(session);
  const [open, setOpen] = useState<Opened>({});
  const close = () => setOpen({});
  if (people.isPending) return <Loading what="people" />;
  if (people.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={people.error} onRetry={() => people.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead title="People" sub={`${people.data.people.length} people in ${people.data.groups.length} groups`}>
        {may && <Button onClick={() => setOpen({ csv: true })}>From CSV</Button>}
        {may && (
          <Button look="primary" onClick={() => setOpen({ account: "new" })}>
            New account
          </Button>
        )}
      </PageHead>
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
              {may && <th className="hidden font-medium xl:table-cell">Last here</th>}
              <th className="hidden pr-5 font-medium 2xl:table-cell">Mail</th>
            </tr>
          </thead>
          <tbody>
            {people.data.people.map((p) => (
              <tr key={p.id} className="h-9 border-b border-hairline">
                <td className="pl-5 font-medium whitespace-nowrap">
                  {may ? (
                    <button type="button" className="link" onClick={() => setOpen({ account: p })}>
                      {p.name}
                    </button>
                  ) : (
                    p.name
                  )}
                  {!p.active && <span className="text-ink-2"> (shut)</span>}
                </td>
                <td className="pr-3 text-ink-2">{p.roles.join(", ")}</td>
                <td className="pr-3">{p.groups.map(names.group).join(", ") || "—"}</td>
                {may && (
                  <td className="hidden text-ink-2 xl:table-cell">{p.lastSeen ? moment(p.lastSeen, now) : "never"}</td>
                )}
                <td className="hidden pr-5 font-mono text-xs 2xl:table-cell">{p.mail}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <aside className="border-l border-hairline p-5">
          <div className="mb-2 flex items-baseline justify-between">
            <h2 className="font-bold">Groups</h2>
            {designs(session) && (
              <Button look="quiet" onClick={() => setOpen({ group: "new" })}>
                New group
              </Button>
            )}
          </div>
          {people.data.groups.map((g) => (
            <section key={g.id} className="border-b border-hairline py-1.5">
              <h3 className="flex items-baseline justify-between gap-2 font-semibold">
                {g.name}
                {designs(session) && (
                  <Button look="quiet" aria-label={`Change ${g.name}`} onClick={() => setOpen({ group: g })}>
                    Change
                  </Button>
                )}
              </h3>
              <p className={g.members.length ? "text-sm text-ink-2" : "text-sm text-soon"}>
                {g.members.map((m) => names.person(m)).join(", ") || "Nobody is in it."}
              </p>
            </section>
          ))}
        </aside>
      </div>
      {open.account && <AccountDialog account={open.account === "new" ? undefined : open.account} onClose={close} />}
      {open.csv && <PeopleCsvDialog onClose={close} />}
      {open.group && <GroupDialog group={open.group === "new" ? undefined : open.group} onClose={close} />}
    </>
  );
}
