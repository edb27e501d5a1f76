import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Deed, Ladder, Rung } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Dialog, Input, Select, Trouble } from "../../ui/kit";
import { PartiesPicker, PartyPicker } from "./parties";

const newKey = (name: string) =>
  `${
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "") || "ladder"
  }-${Date.now().toString(36)}`;

const DEEDS: Record<Deed["does"], Deed> = {
  remind: { does: "remind" },
  tell: { does: "tell", to: [] },
  add: { does: "add", to: [] },
  "hand over": { does: "hand over", to: { is: "ticketGroup" } },
  "raise priority": { does: "raise priority" },
  decide: { does: "decide", exit: "" },
};

/** Makes a ladder, or changes one: for all workflows that name it, and for whatever begins to climb from then on (D28). */
export function LadderDialog({
  ladder,
  onClose,
  onDone,
}: {
  ladder?: Ladder;
  onClose: () => void;
  onDone: (key: string) => void;
}) {
  const queries = useQueryClient();
  const [name, setName] = useState(ladder?.name ?? "");
  const [rungs, setRungs] = useState<Rung[]>(ladder?.rungs ?? [{ after: "15 min", deed: { does: "remind" } }]);
  const [again, setAgain] = useState<Ladder["again"]>(ladder?.again);
  const [stops, setStops] = useState(ladder?.stopsWhenClaimed ?? false);
  const save = useMutation({
    mutationFn: () => {
      const key = ladder?.key ?? newKey(name);
      return api.put<Ladder>(`/api/ladders/${key}`, {
        key,
        name,
        rungs,
        ...(again && { again }),
        ...(stops && { stopsWhenClaimed: true }),
      });
    },
    onSuccess: async (saved) => {
      await queries.invalidateQueries({ queryKey: ["catalogue"] });
      onDone(saved.key);
    },
  });
  const set = (i: number, rung: Rung) => setRungs(rungs.map((r, j) => (j === i ? rung : r)));
  return (
    <Dialog title={ladder ? `Change ${ladder.name}` : "A new ladder"} open onClose={onClose} wide>
      {ladder && (
        <p className="mb-3 text-sm text-ink-2">
          Every workflow that names it climbs it so from now on. What is climbing already goes on as it began.
        </p>
      )}
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <Input
          label="Name"
          required
          autoFocus
          value={name}
          onChange={(e) => setName(e.target.value)}
          placeholder="Pier ladder"
        />
        <ol className="flex flex-col gap-2">
          {rungs.map((r, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rungs have no other name than their place
            <li key={i} className="grid grid-cols-[110px_150px_1fr_auto] items-end gap-2">
              <Input
                label={`Rung ${i + 1}, after`}
                required
                value={r.after}
                onChange={(e) => set(i, { ...r, after: e.target.value })}
              />
              <Select
                label="it"
                value={r.deed.does}
                onChange={(picked) => set(i, { ...r, deed: DEEDS[picked as Deed["does"]] })}
                options={Object.keys(DEEDS).map((d) => ({
                  value: d,
                  label: `${d}s`.replace("hand overs", "hands over").replace("raise prioritys", "raises the priority"),
                }))}
              />
              <div>
                {(r.deed.does === "tell" || r.deed.does === "add") && (
                  <PartiesPicker
                    label="whom"
                    value={r.deed.to}
                    onChange={(to) => set(i, { ...r, deed: { does: r.deed.does as "tell" | "add", to } })}
                  />
                )}
                {r.deed.does === "hand over" && (
                  <PartyPicker
                    label="to"
                    value={r.deed.to}
                    onChange={(to) => to && set(i, { ...r, deed: { does: "hand over", to } })}
                  />
                )}
                {r.deed.does === "decide" && (
                  <Input
                    label="by taking the exit"
                    required
                    value={r.deed.exit}
                    onChange={(e) => set(i, { ...r, deed: { does: "decide", exit: e.target.value } })}
                  />
                )}
              </div>
              <Button
                look="quiet"
                aria-label={`Leave out rung ${i + 1}`}
                onClick={() => setRungs(rungs.filter((_, j) => j !== i))}
              >
                ✕
              </Button>
            </li>
          ))}
        </ol>
        <div>
          <Button onClick={() => setRungs([...rungs, { after: "30 min", deed: { does: "tell", to: [] } }])}>
            Add a rung
          </Button>
        </div>
        <Check
          label="Tells again what only tells"
          checked={again !== undefined}
          onChange={(picked) => setAgain(picked ? { every: "30 min", times: 3 } : undefined)}
        />
        {again && (
          <div className="grid grid-cols-2 gap-2 sm:max-w-xs">
            <Input
              label="every"
              required
              value={again.every}
              onChange={(e) => setAgain({ ...again, every: e.target.value })}
            />
            <Input
              label="times"
              type="number"
              min={1}
              max={20}
              value={again.times}
              onChange={(e) => setAgain({ ...again, times: Number(e.target.value) })}
            />
          </div>
        )}
        <Check
          label="Stands still while somebody has claimed the task"
          checked={stops}
          onChange={(picked) => setStops(picked)}
        />
        {save.isError && <Trouble error={save.error} />}
        <div>
          <Button look="primary" type="submit" disabled={save.isPending || rungs.length === 0}>
            {ladder ? "Keep the change" : "Make it"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
