import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { CalendarView, ServiceOf } from "../../api/types";
import { Check } from "../../ui/Check";
import { Input, Select } from "../../ui/kit";
import { SpanInput } from "../designer/SpanInput";
import { keyFor, SetUpDialog } from "./saving";

/** Makes a service or changes one. */
export function ServiceDialog({
  service,
  calendars,
  onClose,
}: {
  service?: ServiceOf;
  calendars: CalendarView[];
  onClose: () => void;
}) {
  const { directory } = useNames();
  const [name, setName] = useState(service?.name ?? "");
  const [passengers, setPassengers] = useState(service?.passengers ?? false);
  const [owner, setOwner] = useState(service?.owner ?? "");
  const [calendar, setCalendar] = useState(service?.calendar ?? "");
  const [targets, setTargets] = useState<Record<string, Promised>>(() => ({ ...service?.targets }) as never);
  const key = service?.id ?? keyFor(name);
  return (
    <SetUpDialog
      title={service ? service.name : "A new service"}
      save={() =>
        api.put(`/api/services/${key}`, {
          name,
          passengers,
          ...(owner && { owner }),
          ...(calendar && { calendar }),
          targets,
        })
      }
      stale={["services"]}
      onClose={onClose}
    >
      {(at) => (
        <>
          <Input
            label="Name"
            required
            autoFocus
            value={name}
            problem={at("name")}
            onChange={(e) => setName(e.target.value)}
          />
          <Select
            label="Looked after by"
            value={owner}
            problem={at("owner")}
            onChange={(picked) => setOwner(picked)}
            options={[
              { value: "", label: "nobody named" },
              ...(directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })),
            ]}
          />
          <Select
            label="Working time counts by"
            value={calendar}
            problem={at("calendar")}
            onChange={(picked) => setCalendar(picked)}
            options={[
              { value: "", label: "the usual calendar" },
              ...calendars.map((c) => ({ value: c.calendar.key, label: c.calendar.name })),
            ]}
          />
          <Targets value={targets} problem={at("targets")} onChange={setTargets} />
          <Check
            label="Passengers meet it directly"
            checked={passengers}
            onChange={(picked) => setPassengers(picked)}
          />
        </>
      )}
    </SetUpDialog>
  );
}

type Promised = { respond?: string; restore?: string };

/** How soon tickets are to be responded to and restored, by priority; an empty one promises nothing. */
function Targets({
  value,
  problem,
  onChange,
}: {
  value: Record<string, Promised>;
  problem: string | undefined;
  onChange: (v: Record<string, Promised>) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold text-ink-2">Promised</legend>
      <div className="flex flex-col gap-2">
        {["P1", "P2", "P3", "P4"].map((p) => (
          <div key={p} className="grid grid-cols-[32px_1fr_1fr] items-end gap-2">
            <span className="pb-2 font-semibold">{p}</span>
            {(["respond", "restore"] as const).map((of) => (
              <SpanInput
                key={of}
                label={`${p}: ${of} within`}
                value={value[p]?.[of]}
                onChange={(span) => onChange({ ...value, [p]: { ...value[p], [of]: span } })}
              />
            ))}
          </div>
        ))}
      </div>
      {problem && <p className="mt-1 text-sm text-late">{problem}</p>}
    </fieldset>
  );
}
