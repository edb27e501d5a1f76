import { Link } from "@tanstack/react-router";

/** @property begins the heading above it */
export interface PlaceOf {
  to: string;
  name: string;
  count?: number;
  late?: boolean;
  begins?: string;
}

/** One of the places of the frame. */
export function Place({ place, onPhone }: { place: PlaceOf; onPhone: boolean }) {
  return (
    <>
      {place.begins && <p className="mt-2 hidden px-2 text-xs text-ink-2 md:block">{place.begins}</p>}
      <Link
        to={place.to}
        className={`items-center justify-between gap-2 rounded-md px-2 py-1.5 md:py-[5px] whitespace-nowrap hover:bg-here ${onPhone ? "flex" : "hidden md:flex"}`}
        activeProps={{ className: "bg-here font-semibold", "aria-current": "page" }}
      >
        {place.name}
        <Count place={place} />
      </Link>
    </>
  );
}

export function Count({ place }: { place: PlaceOf }) {
  if (!place.count) return null;
  return (
    <span
      className={place.late ? "font-semibold text-late" : "text-ink-2 in-[[aria-current]]:text-ink"}
      title={place.late ? `${place.count} to look at` : undefined}
    >
      {place.count}
    </span>
  );
}
