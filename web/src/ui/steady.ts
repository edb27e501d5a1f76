import { useEffect, useState } from "react";

/** How long something stands still before a single key acts on it, in milliseconds. */
export const STILL = 1000;

/**
 * Whether a single key may act on what is shown: at once where somebody has just chosen it, else after it has stood still
 * before them for a second. Whatever changes in it begins the second anew, chosen or not.
 *
 * @param what changes whenever what is shown is no longer the same
 * @param chosen whether the person picked it, by hand or by key, while nothing around it moved
 */
export function useSteady(what: string, chosen = false): boolean {
  const [steady, setSteady] = useState(chosen ? what : undefined);
  useEffect(() => {
    if (steady === what) return;
    const timer = window.setTimeout(() => setSteady(what), STILL);
    return () => window.clearTimeout(timer);
  }, [what, steady]);
  return steady === what;
}
