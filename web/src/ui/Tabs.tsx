import { Tabs as Radix } from "radix-ui";
import type { ReactNode } from "react";

/** Parts of one thing, of which one is seen; gone through by arrow keys. */
export function Tabs({
  label,
  tabs,
}: {
  label: string;
  tabs: { key: string; title: ReactNode; content: ReactNode }[];
}) {
  return (
    <Radix.Root defaultValue={tabs[0]?.key}>
      <Radix.List aria-label={label} className="mb-3 flex gap-4 border-b border-hairline">
        {tabs.map((t) => (
          <Radix.Trigger
            key={t.key}
            value={t.key}
            className="-mb-px border-b-2 border-transparent px-0.5 py-1.5 text-ink-2 data-[state=active]:border-pine data-[state=active]:font-semibold data-[state=active]:text-ink"
          >
            {t.title}
          </Radix.Trigger>
        ))}
      </Radix.List>
      {tabs.map((t) => (
        <Radix.Content key={t.key} value={t.key} className="flex flex-col gap-3.5">
          {t.content}
        </Radix.Content>
      ))}
    </Radix.Root>
  );
}

/** The name of a tab with how many things are in it. */
export const counted = (name: string, count: number) => (count === 0 ? name : `${name} (${count})`);
