import type { Traffic } from "../../api/types";
import { clock } from "../../ui/time";

/** As high with bars and without. */
const PLACE = "h-[72px] shrink-0 border-b border-hairline px-5 pt-3 pb-1";

/**
 * How many signals came when: a bar for every ten minutes. The words say the same to who does not see it. Until it is known the
 * place is kept, so that what stands below does not move.
 */
export function TrafficBars({ traffic }: { traffic?: Traffic }) {
  if (!traffic) return <div aria-hidden className={PLACE} />;
  const most = Math.max(...traffic.counts, 1);
  const start = new Date(traffic.from).getTime();
  const slot = traffic.slotSeconds * 1000;
  const time = (i: number) => clock(new Date(start + i * slot).toISOString());
  const busiest = traffic.counts.indexOf(most);
  const words = busiest < 0 ? "none came" : `most at ${time(busiest)}: ${most} in ten minutes`;
  return (
    <div role="img" aria-label={`Signals in the last six hours; ${words}.`} className={PLACE}>
      <div className="flex h-9 items-end gap-[3px]">
        {traffic.counts.map((count, i) => (
          <div
            // biome-ignore lint/suspicious/noArrayIndexKey: a slot is its place
            key={i}
            title={`${time(i)}: ${count}`}
            className={`flex-1 rounded-t-sm ${count === 0 ? "bg-hairline" : "bg-detour"}`}
            style={{ height: count === 0 ? 2 : `${Math.max(8, (100 * count) / most)}%` }}
          />
        ))}
      </div>
      <div className="mt-0.5 flex justify-between text-[11px] text-ink-2">
        <span>{time(0)}</span>
        <span>{time(Math.floor(traffic.counts.length / 2))}</span>
        <span>now</span>
      </div>
    </div>
  );
}
