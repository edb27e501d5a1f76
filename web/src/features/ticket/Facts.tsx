import { Link } from "@tanstack/react-router";
import { useNames } from "../../api/hooks";
import type { Other, Ticket } from "../../api/types";
import { valueWords } from "./words";

const HIDDEN = new Set(["title", "state", "priority", "impact", "urgency", "service", "group"]);

/** The fields of a ticket, its CI with neighbours and what else is open there, and who takes part. */
export function Facts({ ticket }: { ticket: Ticket }) {
  const names = useNames();
  const ci = ticket.ci;
  const labels = new Map((names.directory?.fields ?? []).map((f) => [f.name, f]));
  const say = (name: string, value: unknown) => {
    const type = labels.get(name)?.type;
    return type === "person"
      ? names.person(String(value))
      : type === "group"
        ? names.group(String(value))
        : valueWords(value);
  };
  return (
    <dl className="flex flex-col gap-1.5">
      {ci && (
        <>
          <Fact label="CI">
            <Link to="/cis/$id" params={{ id: ci.ci.id }} className="link">
              {ci.ci.name}
            </Link>
            {ci.ci.address && <span className="text-ink-2">, {ci.ci.address}</span>}
          </Fact>
          {Object.entries(ci.ci.attributes).map(([k, v]) => (
            <Fact key={k} label={names.directory?.ciFields.find((f) => f.name === k)?.label ?? k}>
              {valueWords(v)}
            </Fact>
          ))}
          {ci.relations.slice(0, 4).map((r) => (
            <Fact key={r.ci} label={r.outgoing ? r.relation : `is under`}>
              <Link to="/cis/$id" params={{ id: r.ci }} className="link">
                {r.name}
              </Link>
            </Fact>
          ))}
          <Fact label="Also open">
            {ci.otherOpen === 0 ? "nothing else on this CI" : <Others others={ci.others} all={ci.otherOpen} />}
          </Fact>
          <Fact label="Before">{ci.recent === 0 ? "nothing in 30 days" : `${ci.recent} in 30 days`}</Fact>
          <div className="my-1 h-px bg-hairline" />
        </>
      )}
      {ticket.room && (
        <Fact label="Room">
          <a className="link" href={ticket.room.link} target="_blank" rel="noreferrer">
            {ticket.room.name}
          </a>
        </Fact>
      )}
      {Object.entries(ticket.parts).map(([as, people]) => (
        <Fact key={as} label={as}>
          <strong>{(people ?? []).map((p) => names.person(p)).join(", ")}</strong>
        </Fact>
      ))}
      {Object.entries(ticket.fields)
        .filter(([name]) => !HIDDEN.has(name) && !(name === "ci" && ci))
        .map(([name, value]) => (
          <Fact key={name} label={labels.get(name)?.label ?? name}>
            {say(name, value)}
          </Fact>
        ))}
    </dl>
  );
}

function Fact({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[96px_1fr] gap-2">
      <dt className="text-ink-2">{label}</dt>
      <dd className="min-w-0 break-words whitespace-pre-wrap">{children}</dd>
    </div>
  );
}

/** Other open tickets on a CI, as far as there is room. */
export function Others({ others, all }: { others: Other[]; all: number }) {
  return (
    <ul>
      {others.map((o) => (
        <li key={o.number}>
          <Link to="/tickets/$number" params={{ number: o.number }} className="link">
            {o.number}
          </Link>{" "}
          {o.title} <span className="text-ink-2">· {o.state}</span>
        </li>
      ))}
      {all > others.length && <li className="text-ink-2">and {all - others.length} more</li>}
    </ul>
  );
}
