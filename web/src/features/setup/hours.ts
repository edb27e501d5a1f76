/** Weekly hours as people write them: one line a day, "Monday 08:00–12:00, 13:00–17:00". */
export type WeekHours = Record<string, { from: string; to: string }[]>;

export const DAYS = ["MONDAY", "TUESDAY", "WEDNESDAY", "THURSDAY", "FRIDAY", "SATURDAY", "SUNDAY"];

const short = (time: string) => time.slice(0, 5);

export const hoursWords = (hours: { from: string; to: string }[]) =>
  hours.map((h) => `${short(h.from)}–${short(h.to) === "00:00" ? "24:00" : short(h.to)}`).join(", ");

/** The hours of a day's text; undefined when it is not understood. */
export function readHours(text: string): { from: string; to: string }[] | undefined {
  if (text.trim() === "") return [];
  const parts = text.split(",").map((p) => /^\s*(\d{1,2}:\d{2})\s*[-–]\s*(\d{1,2}:\d{2})\s*$/.exec(p));
  const time = (t: string | undefined) => {
    const [h, m] = (t ?? "").split(":").map(Number);
    if (h === undefined || m === undefined || h > 24 || m > 59 || (h === 24 && m > 0)) return undefined;
    return `${String(h % 24).padStart(2, "0")}:${String(m).padStart(2, "0")}`;
  };
  const hours = parts.map((p) => ({ from: time(p?.[1]), to: time(p?.[2]) }));
  return hours.every((h): h is { from: string; to: string } => h.from !== undefined && h.to !== undefined)
    ? hours
    : undefined;
}
