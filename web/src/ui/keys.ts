import { useEffect } from "react";

/** Whether keys go into a field right now. */
export const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName));

/** Whether a key is what presses or opens the control that has the keyboard. A row of the route is what the keys of the place are about. */
const belongsToControl = (event: KeyboardEvent) =>
  (event.key === "Enter" || event.key === " ") &&
  event.target instanceof Element &&
  event.target.closest("button, a[href], summary, [role=button], [role=link]") !== null &&
  event.target.closest("[data-step]") === null;

/** Listens for single keys, named in small letters, while nobody types and no dialog is open. */
export function useKeys(keys: Record<string, (event: KeyboardEvent) => void>): void {
  useEffect(() => {
    const listener = (event: KeyboardEvent) => {
      // What somebody stands on has taken it already, or is about to.
      if (event.defaultPrevented || belongsToControl(event)) return;
      if (isTyping(event.target) || event.metaKey || event.ctrlKey || event.altKey) return;
      if (document.querySelector('[role="dialog"]')) return;
      const act = keys[event.key.toLowerCase()];
      if (act) {
        event.preventDefault();
        act(event);
      }
    };
    window.addEventListener("keydown", listener);
    return () => window.removeEventListener("keydown", listener);
  });
}
