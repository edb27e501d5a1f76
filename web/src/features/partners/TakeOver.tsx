import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { PartnerCount, PartnerTakeover, PartnerView } from "../../api/types";
import { DialogBox } from "../../ui/DialogBox";
import { Button, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { When } from "../../ui/When";
import { day, whenWords } from "../../ui/when";
import { countWords, takeoverWords } from "./words";

const MONTH = 30 * 24 * 60 * 60 * 1000;

/** What was open there before the desks were joined: how far it is taken over, and the way to do it. */
export function TakeOver({ view, may }: { view: PartnerView; may: boolean }) {
  const [asks, setAsks] = useState(false);
  const { takeover, partner } = view;
  const underWay = takeover?.state === "reading" || takeover?.state === "taking";
  if (!takeover && !may) return null;
  return (
    <section aria-label="What was open before" className="mb-4 flex max-w-5xl flex-wrap items-baseline gap-x-4 gap-y-2">
      {takeover && <HowFar partner={partner.key} takeover={takeover} may={may && underWay} />}
      {may && !underWay && (
        <Button onClick={() => setAsks(true)} disabled={!partner.on}>
          Take over what is open there…
        </Button>
      )}
      {may && !underWay && !partner.on && (
        <span className="text-sm text-ink-2">Their desk is switched off, so nothing is read there.</span>
      )}
      {asks && <Asking view={view} onClose={() => setAsks(false)} />}
    </section>
  );
}

function HowFar({ partner, takeover, may }: { partner: string; takeover: PartnerTakeover; may: boolean }) {
  const now = useNow();
  const names = useNames();
  const queries = useQueryClient();
  const stop = useMutation({
    mutationFn: () => api.post(`/api/partners/${partner}/takeovers/stop`, {}),
    onSettled: () => queries.invalidateQueries({ queryKey: ["partner", partner] }),
  });
  const failed = takeover.state === "failed";
  return (
    <>
      <p role="status" className={failed ? "text-late" : "text-ink"}>
        {takeoverWords(takeover, whenWords(day(new Date(takeover.since)), "day"))}{" "}
        <span className="text-sm text-ink-2" title={exact(takeover.at)}>
          {names.person(takeover.by)}, {moment(takeover.at, now)}
        </span>
        {takeover.problem && !failed && <span className="block text-sm text-late">{takeover.problem}</span>}
      </p>
      {may && (
        <Button disabled={stop.isPending} onClick={() => stop.mutate()}>
          Stop
        </Button>
      )}
      {stop.isError && <Trouble error={stop.error} />}
    </>
  );
}

/** Counted before anything is done: the count is of the day that is written, and of no other. */
function Asking({ view, onClose }: { view: PartnerView; onClose: () => void }) {
  const { directory } = useNames();
  const queries = useQueryClient();
  const [since, setSince] = useState(() => day(new Date(Date.now() - MONTH)));
  const key = view.partner.key;
  const body = { since: since === "" ? undefined : new Date(`${since}T00:00`).toISOString() };
  const count = useMutation({
    mutationFn: () => api.post<PartnerCount>(`/api/partners/${key}/takeovers/count`, body),
  });
  const begin = useMutation({
    mutationFn: () => api.post(`/api/partners/${key}/takeovers`, body),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["partner", key] });
      onClose();
    },
  });
  const problem = count.error instanceof ProblemError ? count.error.problem : undefined;
  const group = directory?.groups.find((g) => g.id === view.group)?.name;
  const counted = count.data;
  return (
    <DialogBox title="Take over what is open there" onClose={onClose}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          count.mutate();
        }}
      >
        <p>
          What changes there from now on comes by itself. What was open before comes only now: each ticket becomes an
          incident here{group ? `, of ${group},` : ""} and is followed from then on. Nothing starts by it and nobody is
          told.
        </p>
        {!group && (
          <p className="text-late">
            No group gets them: they would stand on nobody's desk. A group is set under “How it is joined”.
          </p>
        )}
        <When
          label="Touched there since"
          kind="day"
          required
          value={since}
          problem={problem?.where === "since" ? problem.detail : undefined}
          onChange={(s) => {
            setSince(s);
            count.reset();
          }}
        />
        {count.isError && problem?.where !== "since" && <Trouble error={count.error} />}
        {counted && <Counted count={counted} />}
        {begin.isError && <Trouble error={begin.error} />}
        <div className="flex flex-wrap items-center justify-end gap-2">
          <Button type="button" look="quiet" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look={counted ? "plain" : "primary"} disabled={count.isPending}>
            {count.isPending ? "It is counted…" : counted ? "Count again" : "Count them first"}
          </Button>
          {counted && counted.open > 0 && (
            <Button type="button" look="primary" disabled={begin.isPending} onClick={() => begin.mutate()}>
              Take over {counted.problem ? "what is open" : counted.open}
            </Button>
          )}
        </div>
      </form>
    </DialogBox>
  );
}

function Counted({ count }: { count: PartnerCount }) {
  const { directory } = useNames();
  const label = (field: string) => directory?.fields.find((f) => f.name === field)?.label ?? field;
  return (
    <div role="status" className="flex flex-col gap-2 rounded border border-hairline p-3">
      {count.problem && <p className="text-late">{count.problem}</p>}
      {countWords(count).map((w) => (
        <p key={w}>{w}</p>
      ))}
      {count.unknown.length > 0 && (
        <div>
          <p className="text-late">These words of theirs mean nothing here; whoever has the ticket is asked:</p>
          <ul className="list-disc pl-5">
            {count.unknown.map((u) => (
              <li key={`${u.field} ${u.word}`}>
                {label(u.field)}: “{u.word}” on {u.count}
              </li>
            ))}
          </ul>
        </div>
      )}
      {count.first.length > 0 && (
        <ul aria-label="Some of them" className="text-sm text-ink-2">
          {count.first.map((t) => (
            <li key={t.id} className="wrap-anywhere">
              <span className="font-mono">{t.id}</span> {t.title}
            </li>
          ))}
          {count.open > count.first.length && <li>and {count.open - count.first.length} more</li>}
        </ul>
      )}
    </div>
  );
}
