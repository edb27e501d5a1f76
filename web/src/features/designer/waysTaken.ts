/** The ways a run has taken, as "step exit", from what its record says of how steps were left. */
export function waysTaken(record: { step?: string; body: unknown }[]): string[] {
  const ways = record.flatMap((e) => {
    const exit = (e.body as { exit?: unknown } | undefined)?.exit;
    return e.step && typeof exit === "string" ? [`${e.step} ${exit}`] : [];
  });
  return [...new Set(ways)];
}
