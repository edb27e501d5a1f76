import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Rota } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Input, Select } from "../../ui/kit";
import { When } from "../../ui/When";
import type { WeekHours } from "./hours";
import { keyFor, SetUpDialog } from "./saving";
import { WeekEditor } from "./WeekEditor";

type Layer = Rota["levels"][number]["layers"][number];

const nextMonday = () => {
  const at = new Date();
  at.setDate(at.getDate() - ((at.getDay() + 6) % 7));
  return `${at.toISOString().slice(0, 10)}T08:00`;
};

const fresh = (): Layer => ({ people: [], start: nextMonday(), days: 7, hours: {} });

/** Makes a rota or changes one: levels, and in each the people who take turns. */
export function RotaDialog({ rota, onClose }: { rota?: Rota; onClose: () => void }) {
  const [name, setName] = useState(rota?.name ?? "");
  const [zone, setZone] = useState(rota?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);
  const [levels, setLevels] = useState<Rota["levels"]>(rota?.levels ?? [{ layers: [fresh()] }]);
  const key = rota?.key ?? keyFor(name);
  const setLayer = (level: number, at: number, layer: Layer | undefined) =>
    setLevels(
      levels.map((l, i) =>
        i === level
          ? { layers: layer ? l.layers.map((x, j) => (j === at ? layer : x)) : l.layers.filter((_, j) => j !== at) }
          : l,
      ),
    );
  return (
    <SetUpDialog
      title={rota ? rota.name : "A new rota"}
      save={() => api.put(`/api/rotas/${key}`, { key, name, zone, levels, swaps: rota?.swaps ?? [] })}
      stale={["rotas"]}
      onClose={onClose}
      wide
    >
      {(at) => (
        <>
          <div className="grid gap-3 sm:grid-cols-2">
            <Input
              label="Name"
              required
              autoFocus
              value={name}
              problem={at("name")}
              onChange={(e) => setName(e.target.value)}
            />
            <Input
              label="Time zone"
              required
              value={zone}
              problem={at("zone")}
              onChange={(e) => setZone(e.target.value)}
            />
          </div>
          {at("levels") && (
            <p role="alert" className="text-xs text-late">
              {at("levels")}
            </p>
          )}
          {levels.map((level, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: levels have no other name than their place
            <fieldset key={i} className="rounded-lg border border-hairline p-3">
              <legend className="px-1 text-sm font-semibold">
                {i === 0 ? "Called first" : `Then, level ${i + 1}`}
              </legend>
              {level.layers.map((layer, j) => (
                <LayerEditor
                  // biome-ignore lint/suspicious/noArrayIndexKey: layers have no other name than their place
                  key={j}
                  layer={layer}
                  second={j > 0}
                  onChange={(l) => setLayer(i, j, l)}
                />
              ))}
              <div className="mt-2 flex gap-2">
                <Button
                  onClick={() => setLevels(levels.map((l, k) => (k === i ? { layers: [...l.layers, fresh()] } : l)))}
                >
                  Others for the rest of the time
                </Button>
                {levels.length > 1 && (
                  <Button look="quiet" onClick={() => setLevels(levels.filter((_, k) => k !== i))}>
                    Leave this level out
                  </Button>
                )}
              </div>
            </fieldset>
          ))}
          <div>
            <Button onClick={() => setLevels([...levels, { layers: [fresh()] }])}>Add a level</Button>
          </div>
        </>
      )}
    </SetUpDialog>
  );
}

function LayerEditor({
  layer,
  second,
  onChange,
}: {
  layer: Layer;
  second: boolean;
  onChange: (l: Layer | undefined) => void;
}) {
  const { directory, person } = useNames();
  const limited = Object.keys(layer.hours).length > 0;
  const move = (from: number, by: number) => {
    const people = [...layer.people];
    const [who] = people.splice(from, 1);
    if (who) people.splice(from + by, 0, who);
    onChange({ ...layer, people });
  };
  return (
    <div className={second ? "mt-3 border-t border-hairline pt-3" : ""}>
      {second && <p className="mb-1 text-xs text-ink-2">When nobody above is on call:</p>}
      <ol className="mb-1">
        {layer.people.map((p, i) => (
          <li key={p} className="flex items-center gap-1">
            <span className="w-5 text-right text-ink-2">{i + 1}.</span>
            <span className="flex-1">{person(p)}</span>
            <Button look="quiet" disabled={i === 0} aria-label={`${person(p)} earlier`} onClick={() => move(i, -1)}>
              ↑
            </Button>
            <Button
              look="quiet"
              aria-label={`Leave out ${person(p)}`}
              onClick={() => onChange({ ...layer, people: layer.people.filter((x) => x !== p) })}
            >
              ✕
            </Button>
          </li>
        ))}
      </ol>
      <div className="grid gap-2 sm:grid-cols-3">
        <Select
          label="Take turns"
          required={layer.people.length === 0}
          value=""
          onChange={(picked) => picked && onChange({ ...layer, people: [...layer.people, picked] })}
          options={[
            { value: "", label: layer.people.length ? "and…" : "choose…" },
            ...(directory?.people ?? [])
              .filter((p) => p.active && !layer.people.includes(p.id))
              .map((p) => ({ value: p.id, label: p.name })),
          ]}
        />
        <Input
          label="Days each"
          type="number"
          min={1}
          max={366}
          required
          value={layer.days}
          onChange={(e) => onChange({ ...layer, days: Number(e.target.value) })}
        />
        <When
          label="First turn begins"
          required
          value={layer.start.slice(0, 16)}
          onChange={(picked) => onChange({ ...layer, start: picked })}
        />
      </div>
      <div className="mt-2 flex items-center justify-between">
        <Check
          label="Only at certain hours"
          checked={limited}
          onChange={(picked) =>
            onChange({ ...layer, hours: picked ? { MONDAY: [{ from: "08:00", to: "17:00" }] } : {} })
          }
        />
        {second && (
          <Button look="quiet" onClick={() => onChange(undefined)}>
            Leave these out
          </Button>
        )}
      </div>
      {limited && (
        <div className="mt-2">
          <WeekEditor value={layer.hours as WeekHours} onChange={(hours) => onChange({ ...layer, hours })} />
        </div>
      )}
    </div>
  );
}
