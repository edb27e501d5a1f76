/** Times as people say them. */
const TIME = new Intl.DateTimeFormat(undefined, { hour: "2-digit", minute: "2-digit", hour12: false });
const SECONDS = new Intl.DateTimeFormat(undefined, {
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
  hour12: false,
});
const DAY = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short" });
const SHORT_DAY = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric" });
const FULL = new Intl.DateTimeFormat("en-GB", { dateStyle: "full", timeStyle: "medium" });

export const clock = (iso: string) => TIME.format(new Date(iso));
export const clockSeconds = (iso: string) => SECONDS.format(new Date(iso));
export const day = (iso: string) => DAY.format(new Date(iso));
/** A day nearby: "Wed 25". */
export const shortDay = (iso: string) => SHORT_DAY.format(new Date(iso));
export const exact = (iso: string) => `${FULL.format(new Date(iso))}, ${iso}`;

export const sameDay = (a: string, b: string) => new Date(a).toDateString() === new Date(b).toDateString();

/** A day that may be far off: with its year where that is another. */
export const dayFar = (iso: string, now: number) => {
  const year = new Date(iso).getFullYear();
  return year === new Date(now).getFullYear() ? day(iso) : `${day(iso)} ${year}`;
};

/** A moment near now by its time, another by its day as well. */
export const moment = (iso: string, now: number) =>
  sameDay(iso, new Date(now).toISOString()) ? clock(iso) : `${day(iso)} ${clock(iso)}`;

const ISO = /\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?Z/g;

/** A text that a machine wrote, with its moments in the reader's own time. */
export const withTimes = (text: string) => text.replace(ISO, (iso) => `${day(iso)}, ${clock(iso)}`);

/** A length of time in words: "41 s", "12 min", "3 h 20 min", "2 days". */
export function span(milliseconds: number): string {
  const seconds = Math.round(Math.abs(milliseconds) / 1000);
  if (seconds < 90) return `${seconds} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 90) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  if (hours < 36) return minutes % 60 ? `${hours} h ${minutes % 60} min` : `${hours} h`;
  return `${Math.round(hours / 24)} days`;
}

/** What is left until a moment: "13 min", or "−18 min" when it has passed. */
export const left = (iso: string, now: number) => {
  const rest = new Date(iso).getTime() - now;
  return rest < 0 ? `−${span(rest)}` : span(rest);
};
