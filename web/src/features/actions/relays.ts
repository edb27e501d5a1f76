import type { Relay } from "../../api/types";

/** How long ago, by the machines' time. @param seconds since then */
export function ago(seconds: number): string {
  if (seconds < 30) return "just now";
  if (seconds < 120) return `${seconds} s ago`;
  if (seconds < 7_200) return `${Math.round(seconds / 60)} min ago`;
  if (seconds < 172_800) return `${Math.round(seconds / 3_600)} h ago`;
  return `${Math.round(seconds / 86_400)} days ago`;
}

/** Which file a relay goes by, and whether others of its zone go by another: then it depends on who takes a call whether it is done. */
export function fileWords(of: Relay, all: Relay[]): string {
  if (!of.allowed) return "It has not said yet what its file allows.";
  const others = all.filter((r) => r.id !== of.id && r.allowed && r.allowed !== of.allowed);
  return others.length === 0
    ? `Its file is ${of.allowed}`
    : `Its file is ${of.allowed}, another than that of ${others.map((r) => r.name).join(", ")}: what one allows, the other may refuse.`;
}
