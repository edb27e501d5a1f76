import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { LiveTrigger, TriggerFiguresView } from "../../api/types";
import { Button, Chip, Dialog, Empty, Loading, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { triggerWords } from "../designer/triggerWords";
import { figuresWords } from "./figuresWords";

/** The triggers of all live workflows in the order in which they are looked at; the order can be changed. */
export function OrderDialog({ mayChange, onClose }: { mayChange: boolean; onClose: () => void }) {
  const names = useNames();
  const now = useNow();
  const queries = useQueryClient();
  const triggers = useQuery({ queryKey: ["triggers"], queryFn: () => api.get<LiveTrigger[]>("/api/triggers") });
  const figures = useQuery({
    queryKey: ["triggers", "figures"],
    queryFn: () => api.get<TriggerFiguresView>("/api/triggers/figures"),
  });
  const [moved, setMoved] = useState<LiveTrigger[]>();
  const save = useMutation({
    mutationFn: (order: string[]) => api.put("/api/triggers/order", { order }),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["triggers"] });
      onClose();
    },
  });
  // Figures that came later would move the buttons away from under a hand.
  const known = figures.isPending ? [] : (triggers.data ?? []);
  const list = (moved ?? known).filter((t) => !["by hand", "time comes", "called"].includes(t.trigger.when.is));
  const move = (at: number, by: number) => {
    const next = [...list];
    const [one] = next.splice(at, 1);
    if (one) next.splice(at + by, 0, one);
    setMoved(next);
  };
  return (
    <Dialog title="Order of triggers" open onClose={onClose} wide>
      <p className="mb-3 text-ink-2">
        When a ticket is raised or changed, triggers are looked at in this order. One that gives way starts nothing when
        an earlier one has started something.
        {figures.data && figures.data.causes > 0 && (
          <>
            {" "}
            Counted on the last {figures.data.causes} causes
            {figures.data.since && (
              <span title={exact(figures.data.since)}>, since {moment(figures.data.since, now)}</span>
            )}
            .
          </>
        )}
      </p>
      {(triggers.isPending || figures.isPending) && <Loading what="the triggers" />}
      {triggers.isLoadingError && <Trouble error={triggers.error} onRetry={() => triggers.refetch()} />}
      {triggers.isSuccess && !figures.isPending && list.length === 0 && (
        <Empty title="No live workflow starts by itself." />
      )}
      <ol className="flex flex-col">
        {list.map((t, i) => (
          <li key={t.trigger.id} className="flex items-center gap-3 border-b border-hairline py-2">
            <span className="w-6 shrink-0 text-right text-ink-2">{i + 1}</span>
            <span className="min-w-0 flex-1">
              <strong>{t.name}</strong>
              <span className="block text-ink-2">{triggerWords(t.trigger, names)}</span>
              {figures.data && <Figures of={t} all={triggers.data ?? []} figures={figures.data.figures} />}
            </span>
            {t.trigger.unlessEarlier && <Chip>gives way</Chip>}
            {!t.trigger.on && <Chip tone="soon">off</Chip>}
            {mayChange && (
              <span className="flex shrink-0">
                <Button
                  look="quiet"
                  disabled={i === 0}
                  aria-label={`Earlier: ${t.name}, ${triggerWords(t.trigger, names)}`}
                  onClick={() => move(i, -1)}
                >
                  ↑
                </Button>
                <Button
                  look="quiet"
                  disabled={i === list.length - 1}
                  aria-label={`Later: ${t.name}, ${triggerWords(t.trigger, names)}`}
                  onClick={() => move(i, 1)}
                >
                  ↓
                </Button>
              </span>
            )}
          </li>
        ))}
      </ol>
      {save.isError && <Trouble error={save.error} />}
      {mayChange && (
        <div className="mt-4">
          <Button
            look="primary"
            disabled={!moved || save.isPending}
            onClick={() => save.mutate(list.map((t) => t.trigger.id))}
          >
            Save the order
          </Button>
        </div>
      )}
    </Dialog>
  );
}

/** How often it held of late, and what took from it: what stands too late in the order shows here. */
function Figures({
  of,
  all,
  figures,
}: {
  of: LiveTrigger;
  all: LiveTrigger[];
  figures: TriggerFiguresView["figures"];
}) {
  const { held, taken } = figuresWords(of, all, figures);
  return (
    <span className="block text-sm text-ink-2">
      {held}
      {taken && <span className="text-soon">. {taken}</span>}
    </span>
  );
}
