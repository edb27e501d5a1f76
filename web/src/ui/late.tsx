import { type ComponentType, lazy, type ReactNode, Suspense, useState } from "react";

const coming: (() => Promise<unknown>)[] = [];

/**
 * A part that nobody needs before the first page stands: it comes then, or when it is first shown. Once it is there it is shown at
 * once, without the moment of nothing that a lazy part costs.
 *
 * @param load what fetches it; asked again after it failed
 */
export function late<P extends object>(
  load: () => Promise<ComponentType<P>>,
): ComponentType<P & { before?: ReactNode }> {
  let part: ComponentType<P> | undefined;
  const fetch = async () => {
    part ??= await load();
    return { default: part };
  };
  coming.push(fetch);
  // biome-ignore lint/correctness/noComponentHookFactories: it is called where modules begin, once for each part, like `lazy`
  return function Late({ before, ...rest }: P & { before?: ReactNode }) {
    // One that began to wait goes on as it began: its part shall not begin anew under the hand.
    const [Part] = useState<ComponentType<P>>(() => part ?? lazy(fetch));
    return (
      <Suspense fallback={before}>
        <Part {...(rest as unknown as P)} />
      </Suspense>
    );
  };
}

/** Fetches all parts that are not there yet. */
export const fetchLate = (): Promise<unknown> => Promise.allSettled(coming.map((fetch) => fetch()));
