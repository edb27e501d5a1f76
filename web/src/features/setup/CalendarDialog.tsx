import { useState } from "react";
import { api } from "../../api/client";
import type { CalendarView } from "../../api/types";
import { Input, TextArea } from "../../ui/kit";
import { CalendarTrial } from "./CalendarTrial";
import type { WeekHours } from "./hours";
import { keyFor, SetUpDialog } from "./saving";
import { WeekEditor } from "./WeekEditor";

/** Makes a working calendar or changes one. Dues that are set already stay as they are. */
export function CalendarDialog({ calendar, onClose }: { calendar?: CalendarView["calendar"]; onClose: () => void }) {
  const [name, setName] = useState(calendar?.name ?? "");
  const [zone, setZone] = useState(calendar?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);
  const [hours, setHours] = useState<WeekHours>((calendar?.hours ?? {}) as WeekHours);
  const [holidays, setHolidays] = useState((calendar?.holidays ?? []).join("\n"));
  const key = calendar?.key ?? keyFor(name);
  const said = { key, name, zone, hours, holidays: holidays.split(/\s+/).filter(Boolean) };
  return (
    <SetUpDialog
      title={calendar ? calendar.name : "A new working calendar"}
      save={() => api.put(`/api/calendars/${key}`, said)}
      stale={["calendars"]}
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
              list="zones"
              value={zone}
              problem={at("zone")}
              onChange={(e) => setZone(e.target.value)}
            />
            <datalist id="zones">
              {Intl.supportedValuesOf("timeZone").map((z) => (
                <option key={z} value={z} />
              ))}
            </datalist>
          </div>
          <WeekEditor value={hours} onChange={setHours} />
          {at("hours") && (
            <p role="alert" className="text-xs text-late">
              {at("hours")}
            </p>
          )}
          <TextArea
            label="Holidays, one a line"
            rows={4}
            className="font-mono text-xs"
            value={holidays}
            problem={at("holidays")}
            onChange={(e) => setHolidays(e.target.value)}
            placeholder="2026-12-25"
          />
          <CalendarTrial calendar={said} />
          <p className="text-xs text-ink-2">What is already due keeps its time; what begins from now on counts anew.</p>
        </>
      )}
    </SetUpDialog>
  );
}
