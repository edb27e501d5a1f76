import { useEffect, useRef, useState } from "react";
import { STILL } from "../../ui/steady";
import type { Row } from "./filter";

/** A row in its group. */
export interface Line {
  group: string;
  row: Row;
}

/** The row before the person, where it stood last. */
export interface Kept extends Line {
  /** How many rows of its group stood before it. */
  place: number;
}

/**
 * The list with the row before the person in it: where somebody else has settled it, it stays where it stood, so that
 * neither the card nor the rows around it slide away.
 */
export function withKept(lines: Line[], kept: Kept | undefined): Line[] {
  if (!kept || lines.some((l) => l.row.id === kept.row.id)) return lines;
  const first = lines.findIndex((l) => l.group === kept.group);
  const size = lines.filter((l) => l.group === kept.group).length;
  // Where the group is gone too, its place follows from its name.
  const at = first < 0 ? lines.length : first + Math.min(kept.place, size);
  return [...lines.slice(0, at), { group: kept.group, row: kept.row }, ...lines.slice(at)];
}

/**
 * Which row of the Desk is before the person. It changes by their hand only: not when the list does, and not when it is
 * settled.
 *
 * @param loaded whether the list is there
 * @param item the row that the page's address names
 * @returns among others how to choose a row; unseen is one that follows by itself, as after one that is over
 */
export function useKeptRow(
  lines: Line[],
  loaded: boolean,
  item: string | undefined,
  shown: (row: Row) => boolean,
): {
  lines: Line[];
  selected?: Row;
  gone?: string;
  chosen: boolean;
  choose: (id: string | undefined, seen?: boolean) => void;
} {
  const kept = useRef<Kept>(undefined);
  const [pick, setPick] = useState<{ id: string; still: boolean }>();
  const moved = useRef({ ids: "", at: Number.NEGATIVE_INFINITY });
  const fitting = lines.filter((l) => shown(l.row));
  const hidden = lines.length > fitting.length && lines.some((l) => l.row.id === kept.current?.row.id && !shown(l.row));
  const listed = hidden ? fitting : withKept(fitting, kept.current);
  const ids = listed.map((l) => l.row.id).join(" ");
  useEffect(() => {
    // The first list has not slid under anybody's hand.
    const at = moved.current.ids === "" ? Number.NEGATIVE_INFINITY : performance.now();
    moved.current = { ids, at };
  }, [ids]);

  const wanted = pick?.id ?? kept.current?.row.id ?? item;
  const line = listed.find((l) => l.row.id === wanted) ?? (loaded ? listed[0] : undefined);
  if (line) {
    const group = listed.filter((l) => l.group === line.group);
    kept.current = { ...line, place: group.indexOf(line) };
  } else if (loaded) {
    kept.current = undefined;
  }
  const gone = line && !lines.some((l) => l.row.id === line.row.id) ? line.row.id : undefined;
  return {
    lines: listed,
    selected: line?.row,
    gone,
    // A row that had just slid under the hand may not be the one that was meant.
    chosen: pick !== undefined && pick.id === line?.row.id && pick.still,
    choose: (id, seen = true) => {
      kept.current = undefined;
      setPick(id === undefined ? undefined : { id, still: seen && performance.now() - moved.current.at >= STILL });
    },
  };
}
