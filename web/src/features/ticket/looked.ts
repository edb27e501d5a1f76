/** How far somebody has read a ticket's record in this browser, so that what is new since then can be shown. */

const KEPT = "dastur-looked";

/** Of more tickets than this nothing is remembered; the one not looked at for longest is forgotten first. */
const MOST = 300;

type Looked = Record<string, number>;

function read(): Looked {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "{}");
    return kept && typeof kept === "object" && !Array.isArray(kept) ? (kept as Looked) : {};
  } catch {
    return {};
  }
}

/** The last entry seen of a ticket; undefined when it was never looked at here. */
export function lookedAt(ticket: string): number | undefined {
  const seq = read()[ticket];
  return typeof seq === "number" ? seq : undefined;
}

/** Remembers that all entries up to one have been seen. */
export function lookAt(ticket: string, seq: number): void {
  const { [ticket]: before, ...others } = read();
  const kept = Object.entries(others).slice(-(MOST - 1));
  localStorage.setItem(
    KEPT,
    JSON.stringify(Object.fromEntries([...kept, [ticket, Math.max(seq, typeof before === "number" ? before : 0)]])),
  );
}
