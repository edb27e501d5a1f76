import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Ci } from "../../api/types";
import { Button, Chip, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { BUILT_IN, lacking } from "../setup/attributes";
import { CiDialog } from "../setup/CiDialog";
import { designs, useSession } from "../signin/session";
import { valueWords } from "../ticket/words";
import { Neighbours } from "./Neighbours";

/** A configuration item: its facts, its neighbours, what changed on it, its tickets. */
export function CiPage() {
  const { id } = useParams({ from: "/cis/$id" });
  const ci = useQuery({ queryKey: ["ci", id], queryFn: () => api.get<Ci>(`/api/cis/${id}`) });
  const names = useNames();
  const now = useNow();
  const { session } = useSession();
  const [changing, setChanging] = useState(false);
  if (ci.isPending) return <Loading what={id} />;
  if (ci.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={ci.error} onRetry={() => ci.refetch()}>
          <Link to="/services" className="link">
            All services and CIs
          </Link>
        </Trouble>
      </div>
    );
  const { ci: item, changes, tickets, unmet } = ci.data;
  const wished = (name: string) => unmet.find((w) => w.name === name)?.wished;
  const wishedWords = (name: string) =>
    name === "owner" ? names.group(wished(name)) : name === "service" ? names.service(wished(name)) : wished(name);
  const facts: [label: string, said: string, name?: string][] = [
    ["Kind", item.kind],
    ["Life", item.life],
    ["Service", names.service(item.service), "service"],
    ["Site", item.site ?? "—", "site"],
    ["Address", item.address ?? "—", "address"],
    ["Owner", names.group(item.owner), "owner"],
    ...[
      ...new Set([
        ...Object.keys(item.attributes),
        ...unmet.map((w) => w.name).filter((n) => n !== "service" && !BUILT_IN.includes(n)),
      ]),
    ].map((k): [string, string, string] => [
      names.directory?.ciFields.find((f) => f.name === k)?.label ?? k,
      item.attributes[k] === undefined ? "—" : valueWords(item.attributes[k]),
      k,
    ]),
  ];
  const lacks = item.life === "retired" ? [] : lacking(names.directory, item);
  const head = "mb-2 font-bold";
  return (
    <>
      <PageHead title={item.name} sub={`${item.id} · ${item.kind} · ${item.life}`}>
        {lacks.length > 0 && (
          <span className="self-center">
            <Chip tone="soon">incomplete: {lacks.join(", ")}</Chip>
          </span>
        )}
        <Link to="/compare" search={{ before: `ci:${item.id}` }} className="link self-center">
          Compare
        </Link>
        {designs(session) && <Button onClick={() => setChanging(true)}>Change</Button>}
      </PageHead>
      <div className="grid min-h-0 flex-1 content-start gap-8 overflow-auto p-5 lg:grid-cols-2">
        <section>
          <h2 className={head}>Facts</h2>
          <dl>
            {facts.map(([k, v, name]) => (
              <div key={k} className="grid grid-cols-[120px_1fr] border-b border-hairline py-1">
                <dt className="text-ink-2">{k}</dt>
                <dd>
                  {v}
                  {name && wished(name) !== undefined && (
                    <span className="ml-2 text-soon">wished: {wishedWords(name)}</span>
                  )}
                </dd>
              </div>
            ))}
          </dl>
        </section>
        <section>
          <h2 className={head}>Tickets</h2>
          {tickets.length === 0 && <p className="text-ink-2">None.</p>}
          <ul>
            {tickets.map((t) => (
              <li key={t.number} className="flex gap-2 border-b border-hairline py-1">
                <Link to="/tickets/$number" params={{ number: t.number }} className="link">
                  {t.number}
                </Link>
                <span className="truncate">{t.title}</span>
                <span className="ml-auto shrink-0 text-ink-2">{t.state}</span>
              </li>
            ))}
          </ul>
        </section>
        <section className="lg:col-span-2">
          <h2 className={head}>Neighbours</h2>
          <Neighbours page={ci.data} />
        </section>
        <section>
          <h2 className={head}>Changed by tickets</h2>
          {changes.length === 0 && <p className="text-ink-2">Nothing yet.</p>}
          <ul>
            {changes.map((c) => (
              <li key={`${c.ticket} ${c.name} ${c.at}`} className="border-b border-hairline py-1">
                <span className="text-ink-2" title={exact(c.at)}>
                  {moment(c.at, now)}
                </span>{" "}
                <Link to="/tickets/$number" params={{ number: c.ticket }} className="link">
                  {c.ticket}
                </Link>
                : {names.directory?.ciFields.find((f) => f.name === c.name)?.label ?? c.name} {c.before ?? "nothing"} →{" "}
                <strong>{c.after ?? "nothing"}</strong>
              </li>
            ))}
          </ul>
        </section>
      </div>
      {changing && <CiDialog page={ci.data} onClose={() => setChanging(false)} />}
    </>
  );
}
