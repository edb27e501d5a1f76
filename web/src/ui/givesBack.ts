import { useEffect, useState } from "react";

/**
 * Whatever had the keyboard when this came up has it again when this is gone, unless something else has it by then: nothing here is
 * opened by a trigger of the library's own, which its dialogs would go back to.
 */
export function useGivesBack(): void {
  const [before] = useState(() => document.activeElement);
  useEffect(
    () => () => {
      // The library first takes its hands off what it held.
      setTimeout(() => {
        if (document.activeElement === document.body && before instanceof HTMLElement) before.focus();
      }, 10);
    },
    [before],
  );
}
