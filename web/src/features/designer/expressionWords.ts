import { conditionWords, spaced } from "./conditionWords";

/** A path, or the name of an item. */
const PATH = /^[A-Za-z_][\w]*(\.[A-Za-z_]\w*|\[\d+\])*$/;
const TEXT = /^(?:'([^'\\]*)'|"([^"\\]*)")$/;

type PathWords = (path: string) => string;

/**
 * An expression in words, as far as it is of the kinds that people write most: what is known or else something, texts put together,
 * those of a list for which something holds, a value of each, how many. Undefined for all others: they stay as they are written.
 */
export function expressionWords(code: string, pathWords: PathWords): string | undefined {
  const text = code.trim();
  const [first, ...others] = parts(text, "??");
  if (first !== undefined && others.length > 0) {
    const words = [first, ...others].map((p) => expressionWords(p, pathWords));
    // Nothing at all, else nothing: only the first needs to be said.
    const said = words.filter((w) => w !== "nothing");
    return said.includes(undefined) ? undefined : said.join(", else ");
  }
  const summed = parts(text, "+");
  if (summed.length > 1) return summed.some((p) => TEXT.test(p.trim())) ? together(summed, pathWords) : undefined;
  const plain = TEXT.exec(text);
  if (plain) {
    const said = plain[1] ?? plain[2] ?? "";
    return said === "" ? "nothing" : `“${said}”`;
  }
  if (PATH.test(text)) return pathWords(text);
  const counted = called(text, "size");
  if (counted !== undefined) {
    const of = expressionWords(counted, pathWords);
    return of && `how many there are of ${of}`;
  }
  return ofList(text, pathWords);
}

/** Texts and values put together, as one text with its values. */
function together(summed: string[], pathWords: PathWords): string | undefined {
  const words = summed.map((p) => {
    const plain = TEXT.exec(p.trim());
    if (plain) return plain[1] ?? plain[2] ?? "";
    const said = expressionWords(p, pathWords);
    return said && `‹${said}›`;
  });
  return words.includes(undefined) ? undefined : `“${words.join("")}”`;
}

/** Those of a list, or a value of each of them: the last of what is done with it stands last. */
function ofList(text: string, pathWords: PathWords): string | undefined {
  const [list, verb, inner] = lastCall(text);
  if (list === undefined || inner === undefined) return undefined;
  const item = /^([A-Za-z_]\w*)\s*,\s*(.+)$/s.exec(inner);
  const [, name, what] = item ?? [];
  const of = expressionWords(list, pathWords);
  if (!of || !name || !what) return undefined;
  const ofItem = (path: string) =>
    path.startsWith(`${name}.`) ? spaced(path.split(".").slice(1).join(" ")) : undefined;
  if (verb === "filter")
    return `those of ${of} for which ${conditionWords(what, (p) => ofItem(p) ?? labelled(p, pathWords))}`;
  if (verb === "map" && PATH.test(what)) return `${ofItem(what) ?? pathWords(what)} of each of ${of}`;
  return undefined;
}

const labelled = (path: string, pathWords: PathWords) => {
  const words = pathWords(path);
  return words === path ? undefined : words;
};

/** What stands in the brackets of a call that is the whole text. */
function called(text: string, name: string): string | undefined {
  return text.startsWith(`${name}(`) && closes(text, name.length) === text.length - 1
    ? text.slice(name.length + 1, -1)
    : undefined;
}

/** "list.filter(i, …)" as the list, the verb and what stands in its brackets, of the last one. */
function lastCall(text: string): [string?, string?, string?] {
  for (const match of text.matchAll(/\.(filter|map)\(/g)) {
    const opens = match.index + match[0].length - 1;
    if (closes(text, opens) === text.length - 1)
      return [text.slice(0, match.index), match[1], text.slice(opens + 1, -1)];
  }
  return [];
}

/** Where the bracket that opens somewhere closes; −1 where it does not. */
function closes(text: string, opens: number): number {
  let end = -1;
  walk(text, (at, depth) => {
    if (at > opens && end < 0 && depth === depthAt(text, opens)) end = at;
  });
  return end;
}

const depthAt = (text: string, at: number) => {
  let found = 0;
  walk(text, (i, depth) => {
    if (i === at) found = depth - 1;
  });
  return found;
};

/** Each sign outside of texts, with how many brackets are open after it. */
function walk(text: string, on: (at: number, depth: number) => void) {
  let depth = 0;
  let quote = "";
  for (let i = 0; i < text.length; i++) {
    const sign = text[i] ?? "";
    if (quote) {
      if (sign === "\\") i++;
      else if (sign === quote) quote = "";
      continue;
    }
    if (sign === "'" || sign === '"') quote = sign;
    else {
      if ("([{".includes(sign)) depth++;
      if (")]}".includes(sign)) depth--;
      on(i, depth);
    }
  }
}

/** The parts between signs that stand in no brackets and in no text. */
function parts(text: string, between: string): string[] {
  const cuts: number[] = [];
  walk(text, (at, depth) => {
    if (depth === 0 && text.startsWith(between, at) && (cuts.at(-1) ?? -9) + between.length <= at) cuts.push(at);
  });
  const all: string[] = [];
  let from = 0;
  for (const cut of cuts) {
    all.push(text.slice(from, cut));
    from = cut + between.length;
  }
  return [...all, text.slice(from)];
}
