import { Input } from "../../ui/kit";
import { DAYS, hoursWords, readHours, type WeekHours } from "./hours";

/** Hours by day of the week; a blank day is closed. */
export function WeekEditor({ value, onChange }: { value: WeekHours; onChange: (v: WeekHours) => void }) {
  return (
    <div className="grid gap-1">
      {DAYS.map((d) => (
        <div key={d} className="grid grid-cols-[100px_1fr] items-center gap-2">
          <span className="text-sm text-ink-2">{d.charAt(0) + d.slice(1).toLowerCase()}</span>
          <Input
            label={`Hours of ${d.toLowerCase()}`}
            hideLabel
            placeholder="closed"
            defaultValue={hoursWords(value[d] ?? [])}
            onInput={(e) => e.currentTarget.setCustomValidity("")}
            onBlur={(e) => {
              const hours = readHours(e.target.value);
              if (hours === undefined) {
                e.target.setCustomValidity("Write it like 08:00–12:00, 13:00–17:00.");
                e.target.reportValidity();
                return;
              }
              const { [d]: _, ...others } = value;
              onChange(hours.length ? { ...others, [d]: hours } : others);
            }}
          />
        </div>
      ))}
    </div>
  );
}
