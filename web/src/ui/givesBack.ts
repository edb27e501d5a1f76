import { useEffect, useState } from "react";

/** What had the keyboard last outside of menus and dialogs; of a menu, which closes behind what it opens, the button it hangs on. */
let last: Element | null = null;

document.addEventListener("focusin", ({ target }) => {
  // The library's guards at the edges of the page only pass the keyboard on.
  if (!(target instanceof Element) || target.hasAttribute("data-radix-focus-guard")) return;
  const menu = target.closest("[role=menu]")?.getAttribute("aria-labelledby");
  if (menu) last = document.getElementById(menu);
  else if (!target.closest("[role=dialog]")) last = target;
});

function holder(): Element | null {
  const now = document.activeElement;
  return now === null || now === document.body || now.closest("[role=menu]") ? last : now;
}

/**
 * Whatever had the keyboard when this came up has it again when this is gone, unless something else has it by then: nothing here is
 * opened by a trigger of the library's own, which its dialogs would go back to.
 */
export function useGivesBack(): void {
  const [before] = useState(holder);
  useEffect(
    () => () => {
      // The library first takes its hands off what it held.
      setTimeout(() => {
        if (document.activeElement !== document.body) return;
        // One dialog may have taken the place of another, such as of one that was loading.
        const to = before?.isConnected ? before : last;
        if (to instanceof HTMLElement) to.focus();
      }, 10);
    },
    [before],
  );
}
