/** A stretch of time on which turns are laid out, with the beginnings of its days in one zone. */
export interface Axis {
  from: number;
  until: number;
  days: { at: number; name: string; weekend: boolean }[];
}

const DAY = 86_400_000;

/** The zone this browser is in. */
export const ownZone = () => Intl.DateTimeFormat().resolvedOptions().timeZone;

/** By how much a zone's clock is ahead of UTC at a moment, in milliseconds. */
function ahead(zone: string, at: number): number {
  const parts = Object.fromEntries(
    new Intl.DateTimeFormat("en-GB", {
      timeZone: zone,
      hourCycle: "h23",
      year: "numeric",
      month: "2-digit",
      day: "2-digit",
      hour: "2-digit",
      minute: "2-digit",
      second: "2-digit",
    })
      .formatToParts(at)
      .map((p) => [p.type, Number(p.value)]),
  ) as Record<string, number>;
  const { year = 0, month = 1, day = 1, hour = 0, minute = 0, second = 0 } = parts;
  return Date.UTC(year, month - 1, day, hour, minute, second) - Math.floor(at / 1000) * 1000;
}

/** When the day of a moment begins in a zone. A day whose midnight is left out by the clock begins with its first hour. */
export function dayBegins(zone: string, at: number): number {
  const local = at + ahead(zone, at);
  const midnight = local - (((local % DAY) + DAY) % DAY);
  const guess = midnight - ahead(zone, at);
  // The clock may have been changed between midnight and that moment.
  return midnight - ahead(zone, guess);
}

/** From the beginning of the day of a moment, over so many days of a zone; days of 23 and 25 hours are as long as they are. */
export function axis(zone: string, now: number, days: number): Axis {
  const name = new Intl.DateTimeFormat("en-GB", { timeZone: zone, weekday: "short", day: "numeric" });
  const begins: number[] = [dayBegins(zone, now)];
  // Noon of the next day is a day and a half on, whatever the clock does in between.
  while (begins.length <= days) begins.push(dayBegins(zone, (begins.at(-1) ?? now) + 1.5 * DAY));
  return {
    from: begins[0] ?? now,
    until: begins[days] ?? now,
    days: begins.slice(0, days).map((at) => {
      const words = name.format(at + DAY / 4);
      return { at, name: words, weekend: words.startsWith("Sat") || words.startsWith("Sun") };
    }),
  };
}

/** Where a stretch stands on the axis, in per cent of it; undefined where it is not on it. */
export function placed(a: Axis, from: number, until: number): { left: number; width: number } | undefined {
  const begin = Math.max(a.from, from);
  const end = Math.min(a.until, until);
  if (end <= begin) return undefined;
  const whole = a.until - a.from;
  return { left: ((begin - a.from) / whole) * 100, width: ((end - begin) / whole) * 100 };
}

/** A moment in a zone, as people write it: "Mon 30 Nov 07:00". */
export function inZone(zone: string, iso: string): string {
  const at = new Date(iso);
  const day = new Intl.DateTimeFormat("en-GB", { timeZone: zone, weekday: "short", day: "numeric", month: "short" });
  const time = new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
  });
  return `${day.format(at)} ${time.format(at)}`;
}
