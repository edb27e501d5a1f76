import type { Rhythm } from "../../api/types";

/** How often something happens, as people choose it; what cannot be chosen so is a rule of RFC 5545. */
export type Often = "once" | "daily" | "weekly" | "monthly" | "month's end" | "hourly" | "minutely" | "rule";

/** A rhythm as the form has it. */
export interface Plan {
  often: Often;
  /** Every so many: 1 for each. */
  every: number;
  /** Days of the week, as the rule has them: MO, TU, … */
  days: string[];
  /** The first day: 2026-12-01. */
  date: string;
  /** The time of day: 04:15. */
  time: string;
  /** A rule that cannot be chosen. */
  rule: string;
  zone: string;
  /** The last day; empty for ever. */
  until: string;
  openDaysOf: string;
}

export const DAYS: [string, string][] = [
  ["MO", "Monday"],
  ["TU", "Tuesday"],
  ["WE", "Wednesday"],
  ["TH", "Thursday"],
  ["FR", "Friday"],
  ["SA", "Saturday"],
  ["SU", "Sunday"],
];

const FREQ: Partial<Record<string, Often>> = {
  DAILY: "daily",
  WEEKLY: "weekly",
  MONTHLY: "monthly",
  HOURLY: "hourly",
  MINUTELY: "minutely",
};

/** Reads a rhythm into the form. */
export function readRhythm(r: Rhythm): Plan {
  const [date = "", time = ""] = r.from.split("T");
  const plan: Plan = {
    often: "once",
    every: 1,
    days: [],
    date,
    time: time.slice(0, 5),
    rule: r.rule ?? "",
    zone: r.zone,
    until: r.until?.slice(0, 10) ?? "",
    openDaysOf: r.openDaysOf ?? "",
  };
  if (!r.rule) return plan;
  const parts = new Map(r.rule.split(";").map((p) => p.split("=") as [string, string]));
  const often = FREQ[parts.get("FREQ") ?? ""];
  const every = Number(parts.get("INTERVAL") ?? 1);
  const others = [...parts.keys()].filter((k) => k !== "FREQ" && k !== "INTERVAL");
  const days = (parts.get("BYDAY") ?? "").split(",").filter(Boolean);
  const plainDays = days.every((d) => DAYS.some(([code]) => code === d));
  if (often === "weekly" && others.every((k) => k === "BYDAY") && plainDays) return { ...plan, often, every, days };
  if (often === "monthly" && others.join() === "BYMONTHDAY" && parts.get("BYMONTHDAY") === "-1")
    return { ...plan, often: "month's end", every };
  if (often && often !== "weekly" && others.length === 0) return { ...plan, often, every };
  return { ...plan, often: "rule", every };
}

/** The rhythm that the form says. */
export function writeRhythm(p: Plan): Rhythm {
  const interval = p.every > 1 ? `;INTERVAL=${p.every}` : "";
  const days = p.days.length > 0 ? `;BYDAY=${DAYS.map(([d]) => d).filter((d) => p.days.includes(d))}` : "";
  const rule: Record<Often, string> = {
    once: "",
    daily: `FREQ=DAILY${interval}`,
    weekly: `FREQ=WEEKLY${interval}${days}`,
    monthly: `FREQ=MONTHLY${interval}`,
    "month's end": `FREQ=MONTHLY${interval};BYMONTHDAY=-1`,
    hourly: `FREQ=HOURLY${interval}`,
    minutely: `FREQ=MINUTELY${interval}`,
    rule: p.rule,
  };
  return {
    from: `${p.date}T${p.time}`,
    zone: p.zone,
    ...(rule[p.often] ? { rule: rule[p.often] } : {}),
    ...(p.until && p.often !== "once" ? { until: `${p.until}T23:59` } : {}),
    ...(p.openDaysOf ? { openDaysOf: p.openDaysOf } : {}),
  };
}

const UNITS: Partial<Record<Often, string>> = {
  daily: "day",
  weekly: "week",
  monthly: "month",
  "month's end": "month",
  hourly: "hour",
  minutely: "minute",
};

const dayName = (code: string) => DAYS.find(([c]) => c === code)?.[1] ?? code;

/** "every Monday and Friday at 07:30 (Europe/Oslo), on days when Office opens". */
export function rhythmWords(r: Rhythm, calendar: (key: string) => string): string {
  const p = readRhythm(r);
  const unit = UNITS[p.often];
  const each = p.every > 1 ? `every ${p.every} ${unit}s` : `every ${unit}`;
  const days = p.days.map(dayName);
  const onDays = days.length > 1 ? `${days.slice(0, -1).join(", ")} and ${days.at(-1)}` : days[0];
  const when: Record<Often, string> = {
    once: `once, on ${p.date} at ${p.time}`,
    daily: `${each} at ${p.time}`,
    weekly: onDays
      ? `${p.every > 1 ? `${each} on` : "every"} ${onDays} at ${p.time}`
      : `${each} on the day of ${p.date}, at ${p.time}`,
    monthly: `${each} on day ${Number(p.date.slice(8))} at ${p.time}`,
    "month's end": `${each} on its last day at ${p.time}`,
    hourly: `${each} from ${p.time}`,
    minutely: `${each} from ${p.time}`,
    rule: `by the rule ${p.rule}`,
  };
  const until = p.until ? `, until ${p.until}` : "";
  const open = p.openDaysOf ? `, on days when ${calendar(p.openDaysOf)} opens` : "";
  return `${when[p.often]} (${p.zone})${open}${until}`;
}
