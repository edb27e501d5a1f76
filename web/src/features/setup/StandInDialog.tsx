import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { RotaView } from "../../api/types";
import { Select } from "../../ui/kit";
import { When } from "../../ui/When";
import { SetUpDialog } from "./saving";

const local = (at: Date) => new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);

/** Somebody takes a turn, or a part of one, whoever's it would be. */
export function StandInDialog({ view, onClose }: { view: RotaView; onClose: () => void }) {
  const { directory } = useNames();
  const [person, setPerson] = useState("");
  const [level, setLevel] = useState(1);
  const [from, setFrom] = useState(local(new Date()));
  const [until, setUntil] = useState(local(new Date(Date.now() + 86_400_000)));
  return (
    <SetUpDialog
      title={`Stands in: ${view.rota.name}`}
      save={() =>
        api.post(`/api/rotas/${view.rota.key}/swaps`, {
          level,
          person,
          from: new Date(from).toISOString(),
          until: new Date(until).toISOString(),
        })
      }
      stale={["rotas"]}
      onClose={onClose}
      verb="They stand in"
    >
      {(at) => (
        <>
          <Select
            label="Who"
            required
            value={person}
            problem={at("levels")}
            onChange={(picked) => setPerson(picked)}
            options={[
              { value: "", label: "choose…" },
              ...(directory?.people ?? []).filter((p) => p.active).map((p) => ({ value: p.id, label: p.name })),
            ]}
          />
          {view.levels.length > 1 && (
            <Select
              label="Level"
              value={String(level)}
              onChange={(picked) => setLevel(Number(picked))}
              options={view.levels.map((l) => ({
                value: String(l.level),
                label: l.level === 1 ? "called first" : `level ${l.level}`,
              }))}
            />
          )}
          <div className="grid gap-3 sm:grid-cols-2">
            <When label="From" required value={from} onChange={(picked) => setFrom(picked)} />
            <When label="Until" required value={until} problem={at("until")} onChange={(picked) => setUntil(picked)} />
          </div>
        </>
      )}
    </SetUpDialog>
  );
}
