// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from "vitest";
import { play } from "../testing/stage";
import { wholeRecord } from "./hooks";
import type { Entry, RecordView } from "./types";

const entry = (seq: number, kind = "noteAdded") => ({ seq, kind, content: { text: `${seq}` } }) as unknown as Entry;

const view = (total: number, entries: Entry[], more = false, unbroken = true) =>
  ({ entries, more, total, unbroken, anchored: 0 }) as RecordView;

const seqs = (r: RecordView) => r.entries.map((e) => e.seq);

let asked: string[];

function answers(table: Record<string, RecordView>) {
  asked = [];
  play(
    Object.fromEntries(
      Object.entries(table).map(([path, answer]) => [
        `GET /api/tickets/I-7/record${path}`,
        () => {
          asked.push(path);
          return answer;
        },
      ]),
    ),
  );
}

beforeEach(() => {
  asked = [];
});

describe("a record", () => {
  it("comes in parts, and then only what follows", async () => {
    answers({ "": view(3, [entry(1), entry(2)], true), "?after=2": view(3, [entry(3)]) });
    const first = await wholeRecord("I-7");
    expect(seqs(first)).toEqual([1, 2, 3]);
    answers({ "?after=3": view(4, [entry(4)]) });
    expect(seqs(await wholeRecord("I-7", first))).toEqual([1, 2, 3, 4]);
    expect(asked).toEqual(["?after=3"]);
  });

  it("is read anew where content was taken away, so that nobody goes on seeing it", async () => {
    const before = view(2, [entry(1), entry(2)]);
    answers({ "?after=2": view(3, [entry(3, "redacted")]), "": view(3, [entry(1), entry(2), entry(3, "redacted")]) });
    await wholeRecord("I-7", before);
    expect(asked).toEqual(["?after=2", ""]);
  });

  it("is read anew where it is not what it was", async () => {
    const before = view(2, [entry(1), entry(2)]);
    answers({ "?after=2": view(1, []), "": view(1, [entry(1)]) });
    expect(seqs(await wholeRecord("I-7", before))).toEqual([1]);
    answers({ "?after=2": view(2, [], false, false), "": view(2, [entry(1), entry(2)], false, false) });
    expect((await wholeRecord("I-7", before)).unbroken).toBe(false);
    expect(asked).toEqual(["?after=2", ""]);
  });
});
