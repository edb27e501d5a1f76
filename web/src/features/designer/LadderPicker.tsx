import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue, useNames } from "../../api/hooks";
import type { Deed, Ladder, Rung } from "../../api/types";
import { Button, Check, Dialog, Input, Select, Trouble } from "../../ui/kit";
import { deedWords } from "../ticket/words";
import { PartiesPicker, PartyPicker } from "./parties";

/** Chooses a ladder, or makes one without leaving the workflow. */
export function LadderPicker({
  value,
  onChange,
}: {
  value: string | undefined;
  onChange: (key: string | undefined) => void;
}) {
  const catalogue = useCatalogue();
  const names = useNames();
  const [making, setMaking] = useState(false);
  const ladders = catalogue.data?.ladders ?? [];
  const chosen = ladders.find((l) => l.key === value);
  return (
    <div>
      <Select
        label="If nobody acts"
        value={value ?? ""}
        onChange={(picked) => (picked === "+" ? setMaking(true) : onChange(picked || undefined))}
        options={[
          { value: "", label: "nothing climbs" },
          ...ladders.map((l) => ({ value: l.key, label: l.name })),
          { value: "+", label: "make a ladder…" },
        ]}
      />
      {chosen && (
        <p className="mt-1 text-xs text-ink-2">
          {chosen.rungs.map((r) => `${r.after}: ${deedWords(r.deed, names)}`).join(" · ")}
          {chosen.again && ` · tells again every ${chosen.again.every}, ${chosen.again.times} times`}
          {chosen.stopsWhenClaimed && " · stands still while somebody has claimed the task"}
        </p>
      )}
      {making && (
        <NewLadder
          onClose={() => setMaking(false)}
          onMade={(key) => {
            setMaking(false);
            onChange(key);
          }}
        />
      )}
    </div>
  );
}

const DEEDS: Record<Deed["does"], Deed> = {
  remind: { does: "remind" },
  tell: { does: "tell", to: [] },
  add: { does: "add", to: [] },
  "hand over": { does: "hand over", to: { is: "ticketGroup" } },
  "raise priority": { does: "raise priority" },
  decide: { does: "decide", exit: "" },
};

function NewLadder({ onClose, onMade }: { onClose: () => void; onMade: (key: string) => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [rungs, setRungs] = useState<Rung[]>([{ after: "15 min", deed: { does: "remind" } }]);
  const [again, setAgain] = useState<Ladder["again"]>();
  const [stops, setStops] = useState(false);
  const save = useMutation({
    mutationFn: () => {
      const key = `${
        name
          .toLowerCase()
          .replace(/[^a-z0-9]+/g, "-")
          .replace(/^-|-$/g, "") || "ladder"
      }-${Date.now().toString(36)}`;
      return api.put<Ladder>(`/api/ladders/${key}`, {
        key,
        name,
        rungs,
        ...(again && { again }),
        ...(stops && { stopsWhenClaimed: true }),
      });
    },
    onSuccess: async (ladder) => {
      await queries.invalidateQueries({ queryKey: ["catalogue"] });
      onMade(ladder.key);
    },
  });
  const set = (i: number, rung: Rung) => setRungs(rungs.map((r, j) => (j === i ? rung : r)));
  return (
    <Dialog title="A new ladder" open onClose={onClose} wide>
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
            Make it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
