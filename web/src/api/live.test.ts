// @vitest-environment jsdom
import { type QueryClient, QueryObserver } from "@tanstack/react-query";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { listen, useConnection } from "./live";
import { Queries } from "./queries";

/** A stream that a test speaks through. */
class Stream {
  static readonly CLOSED = 2;
  static last: Stream;
  readyState = 1;
  private readonly on = new Map<string, (event: { data?: string }) => void>();
  constructor() {
    Stream.last = this;
  }
  addEventListener(kind: string, heard: (event: { data?: string }) => void) {
    this.on.set(kind, heard);
  }
  close() {}
  says(kind: string, data: unknown = {}) {
    this.on.get(kind)?.({ data: JSON.stringify(data) });
  }
}

const ROW = { number: "I-7", title: "It hangs", updatedAt: "2026-03-02T09:00:00Z" };
let queries: QueryClient;
let reads: string[];
let stop: () => void;

/** A page that shows something; each reading of it is noted. */
function open(key: unknown[], data: unknown) {
  const name = key.join(" ");
  new QueryObserver(queries, {
    queryKey: key,
    queryFn: async () => {
      reads.push(name);
      return data;
    },
  }).subscribe(() => undefined);
}

const settle = (millis: number) => vi.advanceTimersByTimeAsync(millis);

beforeEach(async () => {
  vi.useFakeTimers();
  vi.stubGlobal("EventSource", Stream);
  queries = new Queries();
  reads = [];
  open(["desk"], { openTickets: 12, stalledRuns: 1, tickets: [ROW] });
  open(["tickets", "open=true"], { pages: [{ items: [ROW], more: false }], pageParams: [""] });
  open(["ticket", "I-7"], {});
  open(["ticket", "I-8"], {});
  stop = listen(queries);
  Stream.last.says("hello");
  await settle(2000);
  reads = [];
});

afterEach(() => {
  stop();
  vi.useRealTimers();
});

describe("what is read anew", () => {
  it("is the ticket that changed, and no list where the news says none; when it changed is told", async () => {
    Stream.last.says("changed", { ticket: "I-7", seq: 5, at: "2026-03-02T10:00:00Z", lists: [] });
    await settle(2000);
    expect(reads).toEqual(["ticket I-7"]);
    const list = queries.getQueryData<{ pages: { items: (typeof ROW)[] }[] }>(["tickets", "open=true"]);
    expect(list?.pages[0]?.items[0]?.updatedAt).toBe("2026-03-02T10:00:00Z");
  });

  it("is what was just being read for the first time, once it is there: it may be from before the change", async () => {
    let answer: (data: unknown) => void = () => undefined;
    new QueryObserver(queries, {
      queryKey: ["ticket", "I-9"],
      queryFn: () => {
        reads.push("ticket I-9");
        return new Promise((resolve) => {
          answer = resolve;
        });
      },
    }).subscribe(() => undefined);
    for (const seq of [5, 6]) {
      Stream.last.says("changed", { ticket: "I-9", seq, at: "2026-03-02T10:00:00Z", lists: [] });
      await settle(2000);
    }
    expect(reads).toEqual(["ticket I-9"]);
    answer({ seq: 4 });
    await settle(0);
    expect(reads).toEqual(["ticket I-9", "ticket I-9"]);
    answer({ seq: 6 });
    await settle(2000);
    expect(queries.getQueryData(["ticket", "I-9"])).toEqual({ seq: 6 });
    expect(reads).toHaveLength(2);
  });

  it("is what was being read while the stream began", async () => {
    let answer: (data: unknown) => void = () => undefined;
    const observer = new QueryObserver(queries, {
      queryKey: ["ticket", "I-9"],
      queryFn: () =>
        new Promise((resolve) => {
          answer = resolve;
        }),
    });
    observer.subscribe(() => undefined);
    Stream.last.says("hello");
    await settle(2000);
    answer("before");
    await settle(2000);
    answer("after");
    await settle(0);
    expect(observer.getCurrentResult().data).toBe("after");
  });

  it("are numbers by themselves", async () => {
    const counts = { openTickets: 13, stalledRuns: 0 };
    Stream.last.says("changed", { ticket: "I-9", seq: 1, at: "2026-03-02T10:00:00Z", lists: ["tickets"], counts });
    await settle(2000);
    expect(reads).toEqual(["tickets open=true"]);
    expect(queries.getQueryData(["desk"])).toMatchObject(counts);
  });

  it("are lists once a second in a storm, and at once after quiet", async () => {
    for (let i = 0; i < 30; i++) {
      Stream.last.says("changed", { ticket: "I-9", seq: i, at: "2026-03-02T10:00:00Z", lists: ["desk"] });
      await settle(100);
    }
    await settle(2000);
    expect(reads.length).toBeLessThanOrEqual(4);
    reads = [];
    Stream.last.says("changed", { ticket: "I-9", seq: 40, at: "2026-03-02T10:00:00Z", lists: ["desk"] });
    await settle(100);
    expect(reads).toEqual(["desk"]);
  });

  it("is everything where nobody knows what it touches", async () => {
    Stream.last.says("changed", { ticket: "", seq: 0 });
    await settle(2000);
    expect(reads.sort()).toEqual(["desk", "ticket I-7", "ticket I-8", "tickets open=true"]);
  });

  it("is all lists and the one ticket where another node changed it", async () => {
    Stream.last.says("changed", { ticket: "I-8", seq: 3 });
    await settle(2000);
    expect(reads.sort()).toEqual(["desk", "ticket I-8", "tickets open=true"]);
  });
});

it("says since when nothing was heard, and that it is heard again", () => {
  Stream.last.says("error");
  expect(useConnection.getState().lostAt).toBeDefined();
  Stream.last.says("hello");
  expect(useConnection.getState().lostAt).toBeUndefined();
});
