import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { ProblemError } from "../../api/client";
import type { Step, Version, Workflow } from "../../api/types";

const put = vi.hoisted(() => vi.fn());
vi.mock("../../api/client", async (original) => ({
  ...(await original<typeof import("../../api/client")>()),
  api: { put },
}));

const kept = new Map<string, string>();
vi.stubGlobal("localStorage", {
  getItem: (k: string) => kept.get(k) ?? null,
  setItem: (k: string, v: string) => kept.set(k, v),
  removeItem: (k: string) => kept.delete(k),
});

const { useDesigner } = await import("./store");

const end = (id: string, name: string) => ({ kind: "end", id, name, result: id, ending: "line" }) as Step;
const version = (name: string, key = "w"): Version => ({
  key,
  number: 1,
  name,
  owner: "ines",
  startForm: [],
  vars: [],
  results: [],
  conditions: {},
  notes: {},
  body: { steps: [end("e", "End")] },
});
const workflow = (name: string, revision = 1, key = "w") =>
  ({ key, draft: version(name, key), draftRevision: revision, findings: [], mayDesign: true }) as unknown as Workflow;

const now = () => useDesigner.getState();
const rename = (name: string) =>
  now().edit((d) => {
    d.name = name;
  });

beforeEach(() => {
  vi.useFakeTimers();
  kept.clear();
  put.mockReset();
  useDesigner.setState({ version: undefined, past: [], future: [], saving: { is: "saved" } });
});
afterEach(() => vi.useRealTimers());

test("an edit is saved by itself after a moment, several together", async () => {
  put.mockResolvedValue({ revision: 2, findings: [] });
  now().open(workflow("A"));
  rename("B");
  rename("C");
  expect(now().saving.is).toBe("unsaved");
  await vi.advanceTimersByTimeAsync(600);
  expect(put).toHaveBeenCalledTimes(1);
  expect(put.mock.calls[0]).toMatchObject(["/api/workflows/w/draft", { version: { name: "C" }, revision: 1 }]);
  expect([now().saving.is, now().revision, now().base?.name]).toEqual(["saved", 2, "C"]);
  expect(kept.size).toBe(0);
});

test("an edit that changes nothing is none", () => {
  now().open(workflow("A"));
  rename("A");
  expect([now().past.length, now().saving.is]).toEqual([0, "saved"]);
});

test("undo and redo go through all changes, and a new one ends what could be redone", () => {
  now().open(workflow("A"));
  rename("B");
  rename("C");
  now().undo();
  now().undo();
  expect(now().version?.name).toBe("A");
  now().undo();
  expect(now().version?.name).toBe("A");
  now().redo();
  expect(now().version?.name).toBe("B");
  rename("D");
  now().redo();
  expect(now().version?.name).toBe("D");
});

test("what is typed while a save is under way is saved after it", async () => {
  let answer: (saved: object) => void = () => {};
  put.mockImplementationOnce(
    () =>
      new Promise((done) => {
        answer = done;
      }),
  );
  put.mockResolvedValue({ revision: 3, findings: [] });
  now().open(workflow("A"));
  rename("B");
  await vi.advanceTimersByTimeAsync(600);
  rename("C");
  answer({ revision: 2, findings: [] });
  await vi.advanceTimersByTimeAsync(600);
  expect(put.mock.lastCall).toMatchObject(["/api/workflows/w/draft", { version: { name: "C" }, revision: 2 }]);
  expect([now().saving.is, now().revision]).toEqual(["saved", 3]);
});

test("a conflict stops saving until it is settled, and keeps what was typed", async () => {
  const problem = { type: "", title: "It has changed", status: 409, detail: "Theirs came first." };
  put.mockRejectedValueOnce(new ProblemError(problem));
  now().open(workflow("A"));
  rename("B");
  await vi.advanceTimersByTimeAsync(600);
  expect(now().saving.is).toBe("conflict");
  rename("C");
  await vi.advanceTimersByTimeAsync(5000);
  expect(put).toHaveBeenCalledTimes(1);
  expect(JSON.parse(kept.get("dastur-draft-w") ?? "{}")).toMatchObject({ version: { name: "C" } });
  put.mockResolvedValue({ revision: 8, findings: [] });
  await now().overwrite(7);
  expect(put.mock.lastCall).toMatchObject(["/api/workflows/w/draft", { version: { name: "C" }, revision: 7 }]);
  expect(now().saving.is).toBe("saved");
});

test("a lost connection is tried again by itself", async () => {
  put.mockRejectedValueOnce(new TypeError("no network")).mockResolvedValue({ revision: 2, findings: [] });
  now().open(workflow("A"));
  rename("B");
  await vi.advanceTimersByTimeAsync(600);
  expect(now().saving.is).toBe("failed");
  await vi.advanceTimersByTimeAsync(3100);
  expect([now().saving.is, put.mock.calls.length]).toEqual(["saved", 2]);
});

test("what was typed and never saved comes back, and is saved", async () => {
  put.mockResolvedValue({ revision: 2, findings: [] });
  kept.set("dastur-draft-w", JSON.stringify({ revision: 1, base: version("A"), version: version("Typed") }));
  now().open(workflow("A"));
  expect([now().version?.name, now().saving.is]).toEqual(["Typed", "unsaved"]);
  await vi.advanceTimersByTimeAsync(600);
  expect(put.mock.lastCall).toMatchObject(["/api/workflows/w/draft", { version: { name: "Typed" } }]);
});

test("what was typed over a draft that changed meanwhile is a conflict, with what both began from", () => {
  kept.set("dastur-draft-w", JSON.stringify({ revision: 1, base: version("A"), version: version("Typed") }));
  now().open(workflow("Theirs", 5));
  expect([now().version?.name, now().base?.name, now().revision, now().saving.is]).toEqual([
    "Typed",
    "A",
    1,
    "conflict",
  ]);
});

test("whoever may not design sees what the server has", () => {
  kept.set("dastur-draft-w", JSON.stringify({ revision: 1, base: version("A"), version: version("Typed") }));
  now().open({ ...workflow("A"), mayDesign: false });
  expect([now().version?.name, now().saving.is]).toEqual(["A", "saved"]);
});

test("the last edit is kept when another workflow is opened at once", () => {
  now().open(workflow("A"));
  rename("B");
  now().open(workflow("X", 1, "other"));
  expect(JSON.parse(kept.get("dastur-draft-w") ?? "{}")).toMatchObject({ version: { name: "B" } });
  expect(now().version?.name).toBe("X");
});

test("an edit during a slow save waits for it, and is sent with the revision it gave (D1)", async () => {
  let answer: (v: unknown) => void = () => {};
  put.mockImplementationOnce(
    () =>
      new Promise((r) => {
        answer = r;
      }),
  );
  put.mockResolvedValueOnce({ revision: 3, findings: [] });
  now().open(workflow("A"));
  rename("B");
  await vi.advanceTimersByTimeAsync(600);
  rename("C");
  await vi.advanceTimersByTimeAsync(2000);
  expect(put).toHaveBeenCalledTimes(1);
  answer({ revision: 2, findings: [] });
  await vi.advanceTimersByTimeAsync(0);
  expect(put.mock.calls[1]).toMatchObject(["/api/workflows/w/draft", { version: { name: "C" }, revision: 2 }]);
  expect([now().saving.is, now().revision]).toEqual(["saved", 3]);
});

test("a workflow that is opened while another is saved is not written into it, nor gets its revision (D2)", async () => {
  let answer: (v: unknown) => void = () => {};
  put.mockImplementationOnce(
    () =>
      new Promise((r) => {
        answer = r;
      }),
  );
  now().open(workflow("A"));
  rename("A2");
  await vi.advanceTimersByTimeAsync(600);
  rename("A3");
  now().open(workflow("Other", 7, "v"));
  answer({ revision: 2, findings: [] });
  await vi.advanceTimersByTimeAsync(2000);
  expect(put).toHaveBeenCalledTimes(1);
  expect([now().version?.key, now().revision, now().saving.is]).toEqual(["v", 7, "saved"]);
  // What was typed last of the first is kept, and goes on from what was saved.
  expect(JSON.parse(kept.get("dastur-draft-w") ?? "{}")).toMatchObject({ revision: 2, version: { name: "A3" } });
});
