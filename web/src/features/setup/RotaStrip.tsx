import { useNames } from "../../api/hooks";
import type { RotaView } from "../../api/types";
import { type Axis, inZone, placed } from "./axis";

type Shift = RotaView["levels"][number]["next"][number];

/** The days above the bands. */
export function AxisDays({ axis }: { axis: Axis }) {
  return (
    <div aria-hidden="true" className="relative h-5 text-[11px] text-ink-2">
      {axis.days.map((d, i) => {
        const p = placed(axis, d.at, axis.days[i + 1]?.at ?? axis.until);
        return (
          <span
            key={d.at}
            className={`absolute bottom-0 truncate border-l border-hairline pl-1 leading-5 ${d.weekend ? "font-semibold" : ""}`}
            style={{ left: `${p?.left}%`, width: `${p?.width}%` }}
          >
            {d.name}
          </span>
        );
      })}
    </div>
  );
}

/** Turns on the axis: whose each is, where nobody has it, and where now is. */
export function RotaStrip({ axis, zone, shifts, now }: { axis: Axis; zone: string; shifts: Shift[]; now: number }) {
  const names = useNames();
  const gone = placed(axis, axis.from, now);
  return (
    <div className="relative mt-1 h-8 overflow-hidden rounded-md border border-hairline text-xs">
      <div aria-hidden="true">
        {axis.days
          .filter((d) => d.weekend)
          .map((d) => {
            const p = placed(axis, d.at, d.at + 86_400_000);
            return (
              <span
                key={d.at}
                className="absolute inset-y-0 bg-raised"
                style={{ left: `${p?.left}%`, width: `${p?.width}%` }}
              />
            );
          })}
        {gone && <span className="absolute inset-y-0 left-0 bg-here" style={{ width: `${gone.width}%` }} />}
      </div>
      <ol>
        {shifts.map((s) => {
          const p = placed(axis, Math.max(now, Date.parse(s.from)), Date.parse(s.until));
          if (!p) return null;
          const words = `${s.person ? names.person(s.person) : "Nobody"}, ${inZone(zone, s.from)} to ${inZone(zone, s.until)}`;
          return (
            <li
              key={s.from}
              title={words}
              style={{ left: `${p.left}%`, width: `${p.width}%` }}
              className={`absolute inset-y-0 flex items-center border-r border-hairline px-1.5 ${s.person ? "" : "hatched text-late"}`}
            >
              <span className="sr-only">{words}</span>
              <span aria-hidden="true" className="truncate">
                {s.person ? names.person(s.person) : ""}
              </span>
            </li>
          );
        })}
      </ol>
      {gone && (
        <span
          role="img"
          aria-label="now"
          title="now"
          className="absolute inset-y-0 w-0.5 bg-late"
          style={{ left: `calc(${gone.width}% - 1px)` }}
        />
      )}
    </div>
  );
}
