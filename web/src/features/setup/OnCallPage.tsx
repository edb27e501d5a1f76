import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue, useNames } from "../../api/hooks";
import type { Feeds, Ladder, RotaView } from "../../api/types";
import { Button, Chip, Dialog, Empty, Input, Loading, PageHead, Trouble } from "../../ui/kit";
import { clock, day, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { designs, useSession } from "../signin/session";
import { deedWords } from "../ticket/words";
import { ReachDialog } from "./ReachDialog";
import { RotaDialog } from "./RotaDialog";
import { StandInDialog } from "./StandInDialog";

const DAY = 86_400_000;
const SHOWN_DAYS = 14;

type Opened = { edit?: RotaView | "new"; standIn?: RotaView; reach?: Ladder; feeds?: boolean };

/** Who is on call now and in the next two weeks, where nobody is, and whom ladders would reach. */
export function OnCallPage() {
  const { session } = useSession();
  const catalogue = useCatalogue();
  const names = useNames();
  const [open, setOpen] = useState<Opened>({});
  const rotas = useQuery({ queryKey: ["rotas"], queryFn: () => api.get<RotaView[]>("/api/rotas") });
  if (rotas.isPending) return <Loading what="rotas" />;
  if (rotas.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={rotas.error} onRetry={() => rotas.refetch()} />
      </div>
    );
  const may = designs(session);
  const close = () => setOpen({});
  return (
    <>
      <PageHead title="On call" sub="Who is reached, now and in the next two weeks">
        <Button onClick={() => setOpen({ feeds: true })}>In my calendar…</Button>
        {may && (
          <Button look="primary" onClick={() => setOpen({ edit: "new" })}>
            New rota
          </Button>
        )}
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {rotas.data.length === 0 && (
          <Empty title="No rota yet">
            {may ? "Make one, then let ladders and call-ins ask whoever is on call." : "A process owner can make one."}
          </Empty>
        )}
        {rotas.data.map((r) => (
          <RotaCard
            key={r.rota.key}
            view={r}
            onEdit={may ? () => setOpen({ edit: r }) : undefined}
            onStandIn={may || r.mine ? () => setOpen({ standIn: r }) : undefined}
          />
        ))}
        <h2 className="mt-6 mb-2 font-bold">Ladders</h2>
        <div className="grid gap-4 lg:grid-cols-2">
          {(catalogue.data?.ladders ?? []).map((l) => (
            <section key={l.key} className="rounded-xl border border-hairline bg-sheet p-3">
              <div className="flex items-baseline justify-between gap-2">
                <h3 className="font-semibold">{l.name}</h3>
                <Button look="quiet" onClick={() => setOpen({ reach: l })}>
                  Who would be reached…
                </Button>
              </div>
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
        </div>
      </div>
      {open.edit && <RotaDialog rota={open.edit === "new" ? undefined : open.edit.rota} onClose={close} />}
      {open.standIn && <StandInDialog view={open.standIn} onClose={close} />}
      {open.reach && <ReachDialog ladder={open.reach} onClose={close} />}
      {open.feeds && <FeedsDialog onClose={close} />}
    </>
  );
}

function RotaCard({ view, onEdit, onStandIn }: { view: RotaView; onEdit?: () => void; onStandIn?: () => void }) {
  const names = useNames();
  const now = useNow();
  const many = view.levels.length > 1;
  return (
    <section className="mb-4 rounded-xl border border-hairline bg-sheet p-3" aria-label={view.rota.name}>
      <div className="mb-1 flex flex-wrap items-center gap-2">
        <h2 className="font-bold">{view.rota.name}</h2>
        <span className="text-xs text-ink-2">{view.rota.zone}</span>
        <span className="ml-auto flex gap-1">
          {onStandIn && (
            <Button look="quiet" onClick={onStandIn}>
              Somebody stands in…
            </Button>
          )}
          {onEdit && (
            <Button look="quiet" onClick={onEdit}>
              Change…
            </Button>
          )}
        </span>
      </div>
      {view.levels.map((l) => (
        <div key={l.level} className="mt-1">
          <p className="flex flex-wrap items-baseline gap-2">
            {many && (
              <span className="text-xs text-ink-2">{l.level === 1 ? "called first" : `then, level ${l.level}`}</span>
            )}
            {l.now ? (
              <strong className="text-base">{names.person(l.now)}</strong>
            ) : (
              <strong className="text-base text-late">Nobody is on call now</strong>
            )}
            {l.until && <span className="text-ink-2">until {moment(l.until, now)}</span>}
            {l.gaps.length > 0 && (
              <Chip tone="late">
                nobody {l.gaps.length === 1 ? "once" : `${l.gaps.length} times`} in 8 weeks, first{" "}
                {l.gaps[0] && `${day(l.gaps[0].from)} ${clock(l.gaps[0].from)}–${clock(l.gaps[0].until)}`}
              </Chip>
            )}
          </p>
          <Strip shifts={l.next} now={now} />
        </div>
      ))}
    </section>
  );
}

/** Two weeks as a band: a piece for each turn, gaps hatched. */
function Strip({ shifts, now }: { shifts: RotaView["levels"][number]["next"]; now: number }) {
  const names = useNames();
  const end = now + SHOWN_DAYS * DAY;
  return (
    <ol className="mt-1 flex h-8 overflow-hidden rounded-md border border-hairline text-xs">
      {shifts.map((s) => {
        const from = Math.max(now, Date.parse(s.from));
        const until = Math.min(end, Date.parse(s.until));
        const words = `${s.person ? names.person(s.person) : "Nobody"}, ${day(s.from)} ${clock(s.from)} to ${day(s.until)} ${clock(s.until)}`;
        return (
          <li
            key={s.from}
            title={words}
            style={{ flexGrow: Math.max(0, until - from), flexBasis: 0 }}
            className={`flex min-w-0 items-center border-r border-hairline px-1.5 last:border-r-0 ${s.person ? "" : "hatched text-late"}`}
          >
            <span className="sr-only">{words}</span>
            <span aria-hidden="true" className="truncate">
              {s.person ? names.person(s.person) : ""}
            </span>
          </li>
        );
      })}
    </ol>
  );
}

function FeedsDialog({ onClose }: { onClose: () => void }) {
  const names = useNames();
  const feeds = useQuery({ queryKey: ["feeds"], queryFn: () => api.get<Feeds>("/api/feeds") });
  const address = (path: string) => window.location.origin + path;
  const rows = feeds.data
    ? [
        { label: "My own turns", path: feeds.data.mine },
        ...feeds.data.rotas.map((r) => ({
          label: names.directory?.rotas.find((x) => x.key === r.rota)?.name ?? r.rota,
          path: r.path,
        })),
      ]
    : [];
  return (
    <Dialog title="In my calendar" open onClose={onClose} wide>
      <p className="mb-3 text-sm text-ink-2">
        Subscribe to an address in your calendar program (iCalendar). Whoever holds the address sees these turns, so
        keep it to yourself. It ends with your account.
      </p>
      {feeds.isLoadingError && <Trouble error={feeds.error} onRetry={() => feeds.refetch()} />}
      <div className="flex flex-col gap-2">
        {rows.map((r) => (
          <Input key={r.path} label={r.label} readOnly value={address(r.path)} onFocus={(e) => e.target.select()} />
        ))}
      </div>
    </Dialog>
  );
}
