import { expect, test } from "vitest";
import { propose } from "./propose";

const hit = (id: string, name: string) => ({ id, name, kind: "gate" });
const hits = [
  hit("ALD-G1", "Gate 1 at Alder Pier"),
  hit("ALD-G2", "Gate 2 at Alder Pier"),
  hit("GNQ-G2", "Gate 2 at Gannet Quay"),
];

test("the CI that shares most words comes first, whatever their order", () => {
  expect(propose.cis("alder pier: gate 2 stands open", hits).map((h) => h.id)[0]).toBe("ALD-G2");
});

test("an id in the text names its CI", () => {
  expect(propose.cis("gnq-g2 broken", hits).map((h) => h.id)).toEqual(["GNQ-G2"]);
});

test("one common word is not enough", () => {
  expect(propose.cis("the gate is loud", hits)).toEqual([]);
});

test("people are proposed by full name or after 'for'", () => {
  const people = [{ id: "mira", name: "Mira Solheim", active: true }];
  expect(propose.people("new badge for Mira", people)).toHaveLength(1);
  expect(propose.people("admirable", people)).toHaveLength(0);
});
