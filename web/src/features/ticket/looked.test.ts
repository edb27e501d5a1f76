// @vitest-environment jsdom
import { beforeEach, expect, it } from "vitest";
import { lookAt, lookedAt } from "./looked";

beforeEach(() => localStorage.clear());

it("remembers how far a record was read, and never less", () => {
  expect(lookedAt("I-7")).toBeUndefined();
  lookAt("I-7", 12);
  lookAt("I-7", 9);
  expect(lookedAt("I-7")).toBe(12);
  expect(lookedAt("I-8")).toBeUndefined();
});

it("forgets what was not looked at for longest", () => {
  for (let i = 0; i < 305; i++) lookAt(`I-${i}`, i + 1);
  expect(lookedAt("I-0")).toBeUndefined();
  expect(lookedAt("I-4")).toBeUndefined();
  expect(lookedAt("I-5")).toBe(6);
  expect(lookedAt("I-304")).toBe(305);
});

it("begins anew where what is kept cannot be read", () => {
  for (const broken of ["{", "[1]", "null", '"x"', '{"I-7":"12"}']) {
    localStorage.setItem("dastur-looked", broken);
    expect(lookedAt("I-7")).toBeUndefined();
    lookAt("I-7", 3);
    expect(lookedAt("I-7")).toBe(3);
  }
});
