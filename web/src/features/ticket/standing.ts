import { useRef, useState } from "react";

/** Something before a person, and whether it is over although they have it before them still. */
export interface Standing<T> {
  id: string;
  item: T;
  over: boolean;
}

/**
 * Keeps what stands before a person where it is: what is new comes to the end, and what is over stays in its place until
 * they have read it. So nothing slides under a hand that is about to press something.
 *
 * @param now what there is now, in the order in which it is to stand when it is first shown
 * @param stays whether an item that is over waits to be read; others are just gone
 */
export function stand<T>(
  before: Standing<T>[],
  now: { id: string; item: T }[],
  stays: (item: T) => boolean,
  read: ReadonlySet<string>,
): Standing<T>[] {
  const there = new Map(now.map((n) => [n.id, n.item]));
  const kept = before.flatMap((s): Standing<T>[] => {
    const item = there.get(s.id);
    if (item !== undefined) return [{ id: s.id, item, over: false }];
    return stays(s.item) && !read.has(s.id) ? [{ ...s, over: true }] : [];
  });
  const known = new Set(kept.map((s) => s.id));
  return [...kept, ...now.filter((n) => !known.has(n.id)).map((n) => ({ ...n, over: false }))];
}

/** As {@link stand}, from one showing to the next. */
export function useStanding<T>(now: { id: string; item: T }[], stays: (item: T) => boolean) {
  const before = useRef<Standing<T>[]>([]);
  const [read, setRead] = useState<ReadonlySet<string>>(new Set());
  before.current = stand(before.current, now, stays, read);
  return {
    standing: before.current,
    dismiss: (id: string) => setRead((r) => new Set(r).add(id)),
  };
}
