import type { ReactNode } from "react";
import type { Keeping } from "../../api/types";
import { Button, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { administers, useSession } from "../signin/session";
import { useKeeping, useLookingAfter } from "./keeping";

/** How what is kept stands: the log, copies, and what an audit found. */
export function KeepingPage() {
  const { session } = useSession();
  const now = useNow();
  const keeping = useKeeping();
  const copy = useLookingAfter("copies");
  const audit = useLookingAfter("audits");
  if (keeping.isPending) return <Loading what="how what is kept stands" />;
  if (keeping.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={keeping.error} onRetry={() => keeping.refetch()} />
      </div>
    );
  const k = keeping.data;
  const may = administers(session);
  const busy = copy.isPending || audit.isPending;
  return (
    <>
      <PageHead title="Keeping" sub="Whether everything is as it was written, and copies of it" />
      <div className="min-h-0 flex-1 space-y-7 overflow-auto p-5">
        <Part title="The log over all records">
          {k.refused ? (
            <p className="max-w-prose text-late">{k.refused}</p>
          ) : k.newest?.size ? (
            <p className="max-w-prose">
              Signed <span title={exact(k.newest.at)}>{moment(k.newest.at, now)}</span>: {k.newest.size} changes of
              records, epoch {k.newest.epoch}. Whoever keeps a signed statement elsewhere can show later that nothing it
              covers was changed or taken away.
            </p>
          ) : (
            <p className="text-ink-2">Nothing is signed yet; it is within a second of the first change.</p>
          )}
          <Witnesses witnesses={k.witnesses} now={now} />
          <details className="mt-2 text-sm text-ink-2">
            <summary className="cursor-pointer">Key and root, for comparing</summary>
            <dl className="mt-2 grid gap-x-3 gap-y-1 md:grid-cols-[90px_1fr]">
              <dt>Key</dt>
              <dd className="font-mono break-all">{k.key}</dd>
              <dt>Root</dt>
              <dd className="font-mono break-all">{k.newest?.root ?? "–"}</dd>
            </dl>
          </details>
        </Part>
        <Part
          title="Audit"
          action={
            may && (
              <Button disabled={busy} onClick={() => audit.mutate()}>
                {audit.isPending ? "Going through all of it…" : "Go through everything"}
              </Button>
            )
          }
        >
          {audit.isError && <Trouble error={audit.error} />}
          <Audited audit={k.audit} now={now} />
          <Passing passing={k.passing} now={now} />
        </Part>
        <Part
          title="Copies"
          action={
            may &&
            !k.nodes && (
              <Button disabled={busy} onClick={() => copy.mutate()}>
                {copy.isPending ? "Copying and auditing…" : "Take a copy"}
              </Button>
            )
          }
        >
          {copy.isError && <Trouble error={copy.error} />}
          {k.nodes && (
            <p className="max-w-prose">
              The database is on a server that {k.nodes === 1 ? "one node uses" : `${k.nodes} nodes share`}. Copy it
              with the server's own means, together with the data folder of a node.
            </p>
          )}
          {k.copyTrouble && (
            <p className="mb-2 max-w-prose text-late">The copy that was due could not be taken: {k.copyTrouble}</p>
          )}
          {!k.nodes && (
            <p className="mb-2 max-w-prose text-ink-2">
              {k.copiesEveryHours
                ? `One is taken every ${k.copiesEveryHours === 1 ? "hour" : `${k.copiesEveryHours} hours`}; the last ${k.copiesKept} are kept.`
                : "None is taken by itself: start with --copy-every HOURS for that."}
            </p>
          )}
          {!k.nodes && k.copies.length === 0 && (
            <Empty title="There is no copy yet">
              A copy is taken while everybody works on. It counts when it was opened and audited.
            </Empty>
          )}
          {!k.nodes && k.copies.length > 0 && (
            <table className="w-full max-w-3xl text-left">
              <thead className="text-sm text-ink-2">
                <tr>
                  <th className="py-1 font-normal">Taken</th>
                  <th className="font-normal">Folder, in the data folder's “backups”</th>
                  <th className="text-right font-normal">Tickets</th>
                  <th className="text-right font-normal">Size</th>
                </tr>
              </thead>
              <tbody>
                {k.copies.map((c) => (
                  <tr key={c.name} className="border-t border-hairline">
                    <td className="py-1.5" title={exact(c.at)}>
                      {moment(c.at, now)}
                    </td>
                    <td className="font-mono text-sm">{c.name}</td>
                    <td className="text-right tabular-nums">{c.tickets}</td>
                    <td className="text-right tabular-nums">{(c.bytes / 1_000_000).toFixed(1)} MB</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Part>
      </div>
    </>
  );
}

function Part({ title, action, children }: { title: string; action?: ReactNode; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 className="font-semibold">{title}</h2>
        {action}
      </div>
      {children}
    </section>
  );
}

const KINDS: Record<Keeping["witnesses"][number]["kind"], string> = {
  FILE: "file",
  MAIL: "by mail",
  POST: "posted to",
  STAMP: "stamped by",
};

function often(minutes: number) {
  if (minutes === 1) return "each minute";
  return minutes === 60 ? "each hour" : "once a day";
}

/** Who outside is given signed statements. */
function Witnesses({ witnesses, now }: { witnesses: Keeping["witnesses"]; now: number }) {
  if (witnesses.length === 0)
    return (
      <p className="mt-2 max-w-prose text-ink-2">
        Nobody outside is given one: name a file elsewhere, an address or an authority with --witness or --time-stamps.
        Until then whoever holds the database and its keys could write it anew.
      </p>
    );
  return (
    <table className="mt-3 w-full max-w-3xl text-left" aria-label="Who outside is given signed statements">
      <thead className="text-sm text-ink-2">
        <tr>
          <th className="py-1 font-normal">Given to</th>
          <th className="pr-3 font-normal">How often</th>
          <th className="pr-3 font-normal">Last</th>
          <th className="text-right font-normal">Changes it covers</th>
        </tr>
      </thead>
      <tbody>
        {witnesses.map((w) => (
          <tr key={w.name} className="border-t border-hairline align-top">
            <td className="py-1.5 pr-3">
              <span className="text-ink-2">{KINDS[w.kind]}</span> <span className="break-all">{w.name}</span>
              {(w.trouble || w.late) && (
                <p className="text-late">
                  {w.trouble ?? "None was given when it was due."} What is changed now is not covered there.
                </p>
              )}
            </td>
            <td className="py-1.5 pr-3">{often(w.everyMinutes)}</td>
            <td className="py-1.5 pr-3">
              {w.givenAt ? <span title={exact(w.givenAt)}>{moment(w.givenAt, now)}</span> : "none yet"}
            </td>
            <td className="py-1.5 text-right tabular-nums">{w.changes ?? "–"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What goes through all tickets by itself, a few a minute. */
function Passing({ passing, now }: { passing: Keeping["passing"]; now: number }) {
  return (
    <>
      <p className="mt-2 max-w-prose text-ink-2">
        By itself all of it is gone through within a week
        {passing.begunAt ? (
          <>
            ; this time since <span title={exact(passing.begunAt)}>{moment(passing.begunAt, now)}</span>, so far{" "}
            {passing.tickets === 1 ? "one ticket" : `${passing.tickets} tickets`}
          </>
        ) : (
          "; the next round begins within a minute"
        )}
        .{" "}
        {passing.problems > 0 && (
          <strong className="text-late">
            {passing.problems === 1 ? "One thing was" : `${passing.problems} things were`} not as written.
          </strong>
        )}
      </p>
      <Findings findings={passing.findings} />
    </>
  );
}

function Findings({ findings }: { findings: Keeping["passing"]["findings"] }) {
  return (
    <ul className="mt-2 max-w-prose">
      {findings.map((f) => (
        <li key={`${f.where}${f.seq}${f.what}`} className="border-t border-hairline py-1.5">
          <span className="font-mono text-sm">{f.where}</span>
          {f.seq > 0 && <span className="text-ink-2">, from entry {f.seq}</span>}: {f.what}
        </li>
      ))}
    </ul>
  );
}

function Audited({ audit, now }: { audit: Keeping["audit"]; now: number }) {
  if (!audit) return <p className="text-ink-2">None since the application was started.</p>;
  return (
    <>
      <p>
        <span title={exact(audit.at)}>{moment(audit.at, now)}</span>: {audit.tickets} tickets with {audit.entries}{" "}
        entries, {audit.changes} changes in the log.{" "}
        {audit.problems === 0 ? (
          <strong>All as written.</strong>
        ) : (
          <strong className="text-late">
            {audit.problems === 1 ? "One thing is" : `${audit.problems} things are`} not as written.
          </strong>
        )}
      </p>
      <Findings findings={audit.findings} />
    </>
  );
}
