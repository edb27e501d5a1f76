import { describe, expect, it } from "vitest";
import { stand } from "./standing";

const now = (...ids: string[]) => ids.map((id) => ({ id, item: id }));
const stays = (item: string) => item.startsWith("m");
const read = new Set<string>();

describe("what stands before a person", () => {
  it("keeps its order: what is new comes to the end, however the server sorts", () => {
    const first = stand([], now("m1", "m2"), stays, read);
    expect(stand(first, now("m3", "m2", "m1"), stays, read).map((s) => s.id)).toEqual(["m1", "m2", "m3"]);
  });

  it("leaves what is over in its place, as it was last, until it is read", () => {
    const first = stand([], now("m1", "m2"), stays, read);
    const second = stand(first, now("m2"), stays, read);
    expect(second).toEqual([
      { id: "m1", item: "m1", over: true },
      { id: "m2", item: "m2", over: false },
    ]);
    expect(stand(second, now("m2"), stays, new Set(["m1"])).map((s) => s.id)).toEqual(["m2"]);
  });

  it("lets go what was never asked of them", () => {
    expect(stand(stand([], now("x", "m1"), stays, read), now("m1"), stays, read).map((s) => s.id)).toEqual(["m1"]);
  });

  it("takes what came back for open again", () => {
    const gone = stand(stand([], now("m1"), stays, read), [], stays, read);
    expect(stand(gone, now("m1"), stays, read)).toEqual([{ id: "m1", item: "m1", over: false }]);
  });
});
