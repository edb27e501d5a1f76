import type { CiHit } from "../../api/types";

const tokens = (text: string) =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}-]+/u)
    .filter((w) => w.length > 0);

/** Proposals from what somebody types: plain word matching, in any order. */
export const propose = {
  /** The words worth asking the server for: the longest and any that look like an id. */
  searchWords(text: string): string[] {
    const words = tokens(text).filter((w) => w.length > 2);
    return [...new Set([...words.filter((w) => /\d/.test(w)), ...words.sort((a, b) => b.length - a.length)])].slice(
      0,
      4,
    );
  },

  /** The CIs that share most words with the text; at least two words or the id must fit. */
  cis(text: string, hits: CiHit[]): CiHit[] {
    const words = new Set(tokens(text));
    const scored = [...new Map(hits.map((h) => [h.id, h])).values()].map((hit) => {
      const fit = tokens(hit.name).filter((w) => words.has(w)).length;
      return { hit, score: words.has(hit.id.toLowerCase()) ? 100 : fit };
    });
    return scored
      .filter((s) => s.score >= 2)
      .sort((a, b) => b.score - a.score || a.hit.id.localeCompare(b.hit.id))
      .slice(0, 3)
      .map((s) => s.hit);
  },

  /** People whose full name stands in the text, or first name after "for". */
  people(text: string, people: { id: string; name: string; active: boolean }[]) {
    const lower = text.toLowerCase();
    return people
      .filter(
        (p) =>
          p.active &&
          (lower.includes(p.name.toLowerCase()) || lower.includes(`for ${p.name.toLowerCase().split(" ")[0]}`)),
      )
      .slice(0, 2);
  },
};
