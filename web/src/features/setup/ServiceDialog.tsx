import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { CalendarView, ServiceOf } from "../../api/types";
import { Check, Input, Select } from "../../ui/kit";
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
            onChange={(e) => setOwner(e.target.value)}
            options={[
              { value: "", label: "nobody named" },
              ...(directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })),
            ]}
          />
          <Select
            label="Working time counts by"
            value={calendar}
            problem={at("calendar")}
            onChange={(e) => setCalendar(e.target.value)}
            options={[
              { value: "", label: "the usual calendar" },
              ...calendars.map((c) => ({ value: c.calendar.key, label: c.calendar.name })),
            ]}
          />
          <Check
            label="Passengers meet it directly"
            checked={passengers}
            onChange={(e) => setPassengers(e.target.checked)}
          />
        </>
      )}
    </SetUpDialog>
  );
}
