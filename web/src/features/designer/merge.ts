/** Brings two people's changes of one draft together: a three-way merge of plain data, steps matched by their ids. */
import type { Version } from "../../api/types";
import { allSteps } from "../../route/ofVersion";

type Plain = null | boolean | number | string | Plain[] | { [key: string]: Plain | undefined };
type Thing = { [key: string]: Plain | undefined };

/** Both changed the same; `path` says where, from the version inwards. Ids stand for steps. */
export interface Clash {
  path: string[];
  mine: Plain | undefined;
  theirs: Plain | undefined;
}

export interface Merged {
  version: Version;
  clashes: Clash[];
}

const isThing = (v: Plain | undefined): v is Thing => v !== null && typeof v === "object" && !Array.isArray(v);

/** Equal whatever the order of keys, which means nothing; that of ways and lists does. */
function same(a: Plain | undefined, b: Plain | undefined): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, i) => same(x, b[i]));
  if (!isThing(a) || !isThing(b)) return false;
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].every((k) => same(a[k], b[k]));
}

/** What an element of a list is known by; lists whose elements have no name are one value. */
const nameOf = (v: Plain): string | undefined =>
  isThing(v)
    ? typeof v.id === "string"
      ? v.id
      : typeof v.name === "string"
        ? v.name
        : isThing(v.field) && typeof v.field.name === "string"
          ? v.field.name
          : undefined
    : undefined;

const isNamed = (list: Plain[]) =>
  list.every((v) => nameOf(v) !== undefined) && new Set(list.map(nameOf)).size === list.length;

class Merge {
  readonly clashes: Clash[] = [];

  value(path: string[], base: Plain | undefined, mine: Plain | undefined, theirs: Plain | undefined) {
    if (same(mine, theirs) || same(theirs, base)) return mine;
    if (same(mine, base)) return theirs;
    if (isThing(mine) && isThing(theirs)) return this.thing(path, isThing(base) ? base : {}, mine, theirs);
    if (Array.isArray(mine) && Array.isArray(theirs)) {
      const before = Array.isArray(base) ? base : [];
      if ([before, mine, theirs].every(isNamed)) return this.list(path, before, mine, theirs);
    }
    this.clashes.push({ path, mine, theirs });
    return mine;
  }

  private thing(path: string[], base: Thing, mine: Thing, theirs: Thing): Thing {
    const merged: Thing = {};
    for (const key of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
      const value: Plain | undefined = this.value([...path, key], base[key], mine[key], theirs[key]);
      if (value !== undefined) merged[key] = value;
    }
    return merged;
  }

  /** In my order; what only they have stands after what it stands after with them. */
  private list(path: string[], base: Plain[], mine: Plain[], theirs: Plain[]): Plain[] {
    const by = (list: Plain[]) => new Map(list.map((v) => [nameOf(v) as string, v]));
    const [was, own, other] = [by(base), by(mine), by(theirs)];
    const merged: [string, Plain][] = [];
    const put = (at: number, name: string) => {
      const value = this.value([...path, name], was.get(name), own.get(name), other.get(name));
      if (value !== undefined) merged.splice(at, 0, [name, value]);
    };
    for (const name of own.keys()) put(merged.length, name);
    let after = -1;
    for (const name of other.keys()) {
      const at = merged.findIndex(([n]) => n === name);
      if (at >= 0) after = at;
      else if (!own.has(name)) {
        const before = merged.length;
        put(after + 1, name);
        if (merged.length > before) after++;
      }
    }
    return merged.map(([, value]) => value);
  }
}

/**
 * My changes and theirs since the version that both began with. Where both changed the same, mine stands and the clash is
 * named. Undefined when they cannot be brought together: one moved a step into another part that both have.
 */
export function merge(base: Version, mine: Version, theirs: Version): Merged | undefined {
  const work = new Merge();
  const plain = (v: Version) => JSON.parse(JSON.stringify(v)) as Plain;
  const version = work.value([], plain(base), plain(mine), plain(theirs)) as unknown as Version;
  const ids = allSteps(version.body.steps).map((s) => s.id);
  return new Set(ids).size === ids.length ? { version, clashes: work.clashes } : undefined;
}

/** The version with their side of a clash instead of mine. */
export function takeTheirs(version: Version, clash: Clash): Version {
  const set = (at: Plain | undefined, path: string[]): Plain | undefined => {
    const [key, ...rest] = path;
    if (key === undefined) return clash.theirs;
    if (Array.isArray(at)) {
      const has = at.some((v) => nameOf(v) === key);
      const next = has ? at : [...at, {}];
      return next
        .map((v, i) => (nameOf(v) === key || (!has && i === at.length) ? set(v, rest) : v))
        .filter((v): v is Plain => v !== undefined);
    }
    return { ...(isThing(at) ? at : {}), [key]: set(isThing(at) ? at[key] : undefined, rest) };
  };
  return set(JSON.parse(JSON.stringify(version)) as Plain, clash.path) as unknown as Version;
}

/** Where a clash is, for people: the step's name and what of it. */
export function clashWords(version: Version, clash: Clash): string {
  const steps = new Map(allSteps(version.body.steps).map((s) => [s.id, s.name]));
  const step = clash.path.findLast((p) => steps.has(p));
  const rest = clash.path.slice(step ? clash.path.lastIndexOf(step) + 1 : 0).filter((p) => p !== "body");
  return [step ? `“${steps.get(step)}”` : "the workflow", ...rest].join(", ");
}
