import { useSyncExternalStore } from "react";

/** How far the server's clock is ahead of ours, in milliseconds; the demo's can be far ahead. */
let ahead = 0;

export function serverTimeIs(iso: string): void {
  ahead = new Date(iso).getTime() - Date.now();
}

let current = Date.now();
const listeners = new Set<() => void>();
setInterval(() => {
  current = Date.now() + ahead;
  for (const l of listeners) l();
}, 1000);

/** The server's time, told anew every second. */
export function useNow(): number {
  return useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => current,
  );
}
