import type { PartnerCount, PartnerLine, PartnerLogLine, PartnerTakeover } from "../../api/types";

/** How a partner's desk stands, in a few words. */
export function standWords(line: PartnerLine, when: (moment: string) => string): { words: string; late: boolean } {
  if (!line.on) return { words: "switched off", late: false };
  if (line.failingSince) return { words: `not reached since ${when(line.failingSince)}`, late: true };
  if (!line.lookedAt) return { words: "not looked at yet", late: false };
  return { words: `looked at ${when(line.lookedAt)}`, late: false };
}

const VERDICTS: Record<string, string> = {
  told: "a ticket of theirs",
  joined: "followed from here on",
  brought: "taken over with what was open",
  taken: "taken over",
  asked: "put to a person",
  refused: "refused",
  sent: "sent",
  said: "said",
  again: "tried again",
  "given up": "given up",
  left: "no longer followed",
  gone: "gone there",
};

/** What became of what came or went. */
export function verdictWords(line: PartnerLogLine): { words: string; tone: "late" | "soon" | "plain" } {
  const words = VERDICTS[line.verdict] ?? line.verdict;
  const tone =
    line.verdict === "refused" || line.verdict === "given up" || line.verdict === "left" || line.verdict === "gone"
      ? "late"
      : line.verdict === "again" || line.verdict === "asked"
        ? "soon"
        : "plain";
  return { words, tone };
}

const these = (n: number, one: string, many: string) => (n === 1 ? `1 ${one}` : `${n} ${many}`);

/** What would be taken over. */
export function countWords(count: PartnerCount): string[] {
  const words = [
    count.open === 0
      ? "Nothing is open there that has not come already."
      : `${these(count.open, "is", "are")} open there and would be taken over.`,
  ];
  if (count.unclear > 0)
    words.push(
      count.unclear === 1
        ? "Of one of these it cannot be told: it counts as open."
        : `Of ${count.unclear} of these it cannot be told: they count as open.`,
    );
  if (count.ended > 0) words.push(`${these(count.ended, "has", "have")} ended there and would stay there.`);
  if (count.known > 0) words.push(`${these(count.known, "has", "have")} come already.`);
  return words;
}

/** How far taking over has come, or how it went. */
export function takeoverWords(t: PartnerTakeover, day: string): string {
  const kept = [
    t.ended > 0 ? `${t.ended} had ended there` : "",
    t.refused > 0 ? `${t.refused} could not be taken over; each says why` : "",
  ].filter((w) => w !== "");
  const more = kept.length > 0 ? ` ${kept.join(", ")}.` : "";
  switch (t.state) {
    case "reading":
      return `Reading what is open there since ${day}. Nothing is taken over until all of it was read.`;
    case "taking":
      return `Taking over what is open there since ${day}: ${t.taken} taken over, ${t.left} to go, five a second.`;
    case "done":
      return t.taken === 0
        ? `Nothing was open there since ${day} that had not come already.${more}`
        : `Taken over: ${these(t.taken, "ticket that was", "tickets that were")} open there since ${day}.${more}`;
    case "stopped":
      return `Stopped after ${these(t.taken, "ticket was", "tickets were")} taken over. What was left comes when it changes there.${more}`;
    default:
      return `Nothing was taken over: ${t.problem ?? "it could not begin"}`;
  }
}

/** What it was about in one line: what was taken over, sent or said; nothing where that cannot be told so. */
export function summary(line: PartnerLogLine): string {
  const of =
    line.verdict === "taken" ? line.meant : line.way === "out" || line.verdict === "said" ? line.raw : undefined;
  if (!of) return "";
  try {
    const values = JSON.parse(of) as Record<string, unknown>;
    if (line.verdict === "said" || "text" in values) return String(values.text ?? "");
    return Object.entries(values)
      .filter(([name]) => name !== "id")
      .map(([name, value]) => `${name}: ${String(value)}`)
      .join(", ");
  } catch {
    return "";
  }
}

/** JSON as it is read best; what is none stays as it came. */
export function pretty(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text;
  }
}

/** Every place in one of their tickets where a value stands, as JSON Pointers (RFC 6901), with the value. */
export function places(raw: string): { at: string; value: string }[] {
  const found: { at: string; value: string }[] = [];
  const walk = (node: unknown, at: string) => {
    if (Array.isArray(node)) {
      found.push({ at, value: `a list of ${node.length}` });
    } else if (node !== null && typeof node === "object") {
      for (const [name, child] of Object.entries(node))
        walk(child, `${at}/${name.replace(/~/g, "~0").replace(/\//g, "~1")}`);
    } else if (node !== null && String(node) !== "") {
      found.push({ at, value: String(node) });
    }
  };
  try {
    walk(JSON.parse(raw), "");
  } catch {
    return [];
  }
  return found.filter((f) => f.at !== "");
}
