import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { api } from "../../api/client";
import { useCatalogue, useNames } from "../../api/hooks";
import type { Feeds, Ladder, RotaView } from "../../api/types";
import { Button, Chip, Dialog, Empty, Input, Loading, PageHead, Trouble } from "../../ui/kit";
import { useNow } from "../../ui/useNow";
import { designs, useSession } from "../signin/session";
import { deedWords } from "../ticket/words";
import { axis, inZone, ownZone } from "./axis";
import { ReachDialog } from "./ReachDialog";
import { RotaDialog } from "./RotaDialog";
import { AxisDays, RotaStrip } from "./RotaStrip";
import { StandInDialog } from "./StandInDialog";

const SHOWN_DAYS = 14;

/** In which zone times are said, kept in this browser. */
const ZONE = "dastur-rota-zone";

const LadderDialog = lazy(() => import("../designer/LadderDialog").then((m) => ({ default: m.LadderDialog })));

type Opened = {
  edit?: RotaView | "new";
  standIn?: RotaView;
  reach?: Ladder;
  ladder?: Ladder | "new";
  feeds?: boolean;
};

/** Who is on call now and in the next two weeks, where nobody is, and whom ladders would reach. */
export function OnCallPage() {
  const { session } = useSession();
  const catalogue = useCatalogue();
  const names = useNames();
  const [open, setOpen] = useState<Opened>({});
  const [mine, setMine] = useState(() => localStorage.getItem(ZONE) === "mine");
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
  // Where all are in one's own zone there is nothing to choose.
  const foreign = rotas.data.some((r) => r.rota.zone !== ownZone());
  return (
    <>
      <PageHead title="On call" sub="Who is reached, now and in the next two weeks">
        {foreign && (
          <Button
            aria-pressed={mine}
            onClick={() => {
              localStorage.setItem(ZONE, mine ? "rota" : "mine");
              setMine(!mine);
            }}
          >
            {mine ? "In each rota’s own time" : `In my time (${ownZone()})`}
          </Button>
        )}
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
            zone={mine ? ownZone() : r.rota.zone}
            onEdit={may ? () => setOpen({ edit: r }) : undefined}
            onStandIn={may || r.mine ? () => setOpen({ standIn: r }) : undefined}
          />
        ))}
        <div className="mt-6 mb-2 flex items-center justify-between gap-2">
          <h2 className="font-bold">Ladders</h2>
          {may && <Button onClick={() => setOpen({ ladder: "new" })}>New ladder</Button>}
        </div>
        <div className="grid gap-4 lg:grid-cols-2">
          {(catalogue.data?.ladders ?? []).map((l) => (
            <section key={l.key} className="rounded-xl border border-hairline bg-sheet p-3">
              <div className="flex items-baseline justify-between gap-2">
                <h3 className="font-semibold">{l.name}</h3>
                <span className="flex gap-1">
                  <Button look="quiet" onClick={() => setOpen({ reach: l })}>
                    Who would be reached…
                  </Button>
                  {may && (
                    <Button look="quiet" onClick={() => setOpen({ ladder: l })}>
                      Change…
                    </Button>
                  )}
                </span>
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
      {open.ladder && (
        <Suspense>
          <LadderDialog ladder={open.ladder === "new" ? undefined : open.ladder} onClose={close} onDone={close} />
        </Suspense>
      )}
      {open.feeds && <FeedsDialog onClose={close} />}
    </>
  );
}

function RotaCard({
  view,
  zone,
  onEdit,
  onStandIn,
}: {
  view: RotaView;
  /** In which times are said. */
  zone: string;
  onEdit?: () => void;
  onStandIn?: () => void;
}) {
  const names = useNames();
  const now = useNow();
  const shown = axis(zone, now, SHOWN_DAYS);
  const many = view.levels.length > 1;
  return (
    <section className="mb-4 rounded-xl border border-hairline bg-sheet p-3" aria-label={view.rota.name}>
      <div className="mb-1 flex flex-wrap items-center gap-2">
        <h2 className="font-bold">{view.rota.name}</h2>
        <span className="text-xs text-ink-2">
          {zone === view.rota.zone ? zone : `times in ${zone}, turns change by ${view.rota.zone}`}
        </span>
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
      {view.levels.map((l, i) => (
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
            {l.until && <span className="text-ink-2">until {inZone(zone, l.until)}</span>}
            {l.gaps.length > 0 && (
              <Chip tone="late">
                nobody {l.gaps.length === 1 ? "once" : `${l.gaps.length} times`} in 8 weeks, first{" "}
                {l.gaps[0] && `${inZone(zone, l.gaps[0].from)} to ${inZone(zone, l.gaps[0].until)}`}
              </Chip>
            )}
          </p>
          {i === 0 && <AxisDays axis={shown} />}
          <RotaStrip axis={shown} zone={zone} shifts={l.next} now={now} />
        </div>
      ))}
    </section>
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
