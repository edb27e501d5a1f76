import * as chrono from "chrono-node/en";

/** What a field holds: a day with a time, a day, or a time of day. */
export type WhenKind = "moment" | "day" | "time";

const two = (n: number) => String(n).padStart(2, "0");

/** A day as fields keep it, in the zone of whoever reads. */
export const day = (d: Date) => `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}`;

/**
 * What somebody means by "tomorrow 22:00", "fri 7", "in 2 h", "30 min" or "1.12. 8:00", said as fields keep it
 * (2026-12-01T08:00, 2026-12-01 or 08:00); undefined when some of it is not understood, since half of a time is a wrong one.
 * Days without a year or name are those to come.
 */
export function understood(text: string, kind: WhenKind, now: Date): string | undefined {
  const plain = text.trim().toLowerCase();
  if (kind === "time") {
    const m = /^(\d{1,2})(?:[:.](\d{2}))?$/.exec(plain);
    const [hour, minute] = [Number(m?.[1]), Number(m?.[2] ?? 0)];
    return m && hour < 24 && minute < 60 ? `${two(hour)}:${two(minute)}` : undefined;
  }
  const words = plain
    // 1.12. and 1.12.2027 are days, with the day first.
    .replace(/\b(\d{1,2})\.(\d{1,2})\.(\d{4})?(?=\s|$)/g, (_, d, m, y) => `${d}/${m}${y ? `/${y}` : ""}`)
    // A lone number after a day is an hour.
    .replace(/([a-z/]|\d{4}|\d{1,2}-\d{1,2}|\/\d{1,2})\s+(at\s+)?(\d{1,2})$/, (all, before, _at, hour) =>
      /(?:^|\s)(?:in|jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*$/.test(all.slice(0, -hour.length).trim()) ||
      Number(hour) > 23
        ? all
        : `${before} ${hour}:00`,
    );
  const found = chrono.GB.parse(words, now, { forwardDate: true });
  const one = found.length === 1 ? found[0] : undefined;
  if (!one || one.end || one.text.trim() !== words.trim()) return undefined;
  const at = one.start.date();
  if (kind === "day") return day(at);
  if (!one.start.isCertain("hour") && !/noon|midnight|tonight|morning|evening|afternoon/.test(words)) return undefined;
  return `${day(at)}T${two(at.getHours())}:${two(at.getMinutes())}`;
}

/** How a kept value reads, with the zone it is meant in. */
export function whenWords(value: string, kind: WhenKind): string {
  if (kind === "time") return value;
  const at = new Date(kind === "day" ? `${value}T12:00` : value);
  if (Number.isNaN(at.getTime())) return "";
  const date = at.toLocaleDateString("en-GB", { weekday: "long", day: "numeric", month: "long", year: "numeric" });
  return kind === "day"
    ? date
    : `${date}, ${two(at.getHours())}:${two(at.getMinutes())} (${Intl.DateTimeFormat().resolvedOptions().timeZone})`;
}

/** A kept value as somebody would write it, so that it is understood again. */
export const written = (value: string, kind: WhenKind) => (kind === "moment" ? value.replace("T", " ") : value);
