import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api } from "../../api/client";
import type { Rhythm } from "../../api/types";
import { Check } from "../../ui/Check";
import { Input, Select, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { When } from "../../ui/When";
import { useCalendars } from "./calendars";
import { DAYS, type Often, type Plan, readRhythm, writeRhythm } from "./rhythm";

const OFTEN: { value: Often; label: string }[] = [
  { value: "once", label: "once" },
  { value: "daily", label: "every day, or every so many" },
  { value: "weekly", label: "on days of the week" },
  { value: "monthly", label: "every month on the same day" },
  { value: "month's end", label: "on the last day of the month" },
  { value: "hourly", label: "every hour, or every so many" },
  { value: "minutely", label: "every so many minutes" },
  { value: "rule", label: "by a rule (RFC 5545)" },
];

const EVERY: Partial<Record<Often, string>> = {
  daily: "Every so many days",
  weekly: "Every so many weeks",
  monthly: "Every so many months",
  "month's end": "Every so many months",
  hourly: "Every so many hours",
  minutely: "Every so many minutes",
};

const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** When something starts: chosen, and told at once in the times that come next. */
export function RhythmEditor({ rhythm, onChange }: { rhythm: Rhythm; onChange: (rhythm: Rhythm) => void }) {
  const { calendars } = useCalendars();
  const [plan, setPlan] = useState<Plan>(() => readRhythm(rhythm));
  const zones = useMemo(() => Intl.supportedValuesOf("timeZone").map((z) => ({ value: z, label: z })), []);
  const set = (change: Partial<Plan>) => {
    const next = { ...plan, ...change };
    setPlan(next);
    if (next.date && next.time && next.zone) onChange(writeRhythm(next));
  };
  return (
    <>
      <Select label="How often" value={plan.often} options={OFTEN} onChange={(v) => set({ often: v as Often })} />
      {EVERY[plan.often] && (
        <Input
          label={EVERY[plan.often] ?? ""}
          type="number"
          min={1}
          max={1000}
          value={plan.every}
          onChange={(e) => set({ every: Math.max(1, Math.min(1000, Number(e.target.value) || 1)) })}
        />
      )}
      {plan.often === "rule" && (
        <Input
          label="Rule"
          value={plan.rule}
          placeholder="FREQ=MONTHLY;BYDAY=2TU"
          help="The second Tuesday of each month, for example."
          onChange={(e) => set({ rule: e.target.value })}
        />
      )}
      {plan.often === "weekly" && (
        <fieldset className="flex flex-wrap gap-x-4 gap-y-1 sm:col-span-2">
          <legend className="mb-1 text-sm font-semibold text-ink-2">On</legend>
          {DAYS.map(([code, name]) => (
            <Check
              key={code}
              label={name}
              checked={plan.days.includes(code)}
              onChange={(on) => set({ days: on ? [...plan.days, code] : plan.days.filter((d) => d !== code) })}
            />
          ))}
        </fieldset>
      )}
      <When
        label={plan.often === "once" ? "Day" : "First day"}
        kind="day"
        required
        value={plan.date}
        onChange={(date) => set({ date })}
      />
      <When label="Time" kind="time" required value={plan.time} onChange={(time) => set({ time })} />
      <Select label="In the zone" value={plan.zone} options={zones} onChange={(zone) => set({ zone })} />
      <Select
        label="Only on days when this calendar opens"
        value={plan.openDaysOf}
        options={[{ value: "", label: "on all days" }, ...calendars.map((c) => ({ value: c.key, label: c.name }))]}
        onChange={(openDaysOf) => set({ openDaysOf })}
      />
      {plan.often !== "once" && (
        <When
          label="Last day"
          kind="day"
          value={plan.until}
          help="empty for ever"
          onChange={(until) => set({ until })}
        />
      )}
      <NextTimes rhythm={rhythm} />
    </>
  );
}

/** The next five times of a rhythm, and what a year comes to. */
function NextTimes({ rhythm }: { rhythm: Rhythm }) {
  const now = useNow();
  const times = useQuery({
    queryKey: ["times", rhythm],
    queryFn: () => api.post<{ times: string[]; aYear: number }>("/api/schedules/times", { rhythm }),
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <div role="status" className="rounded border border-hairline bg-raised p-2 text-sm sm:col-span-2">
      {times.isError ? (
        <Trouble error={times.error} />
      ) : times.data === undefined ? (
        "The next times are being worked out."
      ) : times.data.times.length === 0 ? (
        <strong className="text-late">No time comes any more.</strong>
      ) : (
        <>
          <strong>{rhythm.zone === ZONE ? "Next: " : "Next, by your clock: "}</strong>
          {times.data.times.map((t, i) => (
            <span key={t} title={exact(t)}>
              {i > 0 && " · "}
              {moment(t, now)}
            </span>
          ))}
          <span className="text-ink-2">
            {" "}
            — {times.data.aYear >= 2000 ? "more than 2,000" : times.data.aYear} within a year
            {times.data.aYear > 1000 && "; each of them is kept as a routine of its own"}
          </span>
        </>
      )}
    </div>
  );
}
