import { expect, it } from "vitest";
import { readRule, writeRowRule, writeRule } from "./rule";

it.each([
  ["read.minutes > 20", "whole number", { value: "minutes", how: ">", than: "20" }],
  ["read.up == true", "yes or no", { value: "up", how: "==", than: "true" }],
  ['read.state != "well"', "text", { value: "state", how: "!=", than: "well" }],
])("%s is chosen, and written as it was", (rule, type, compared) => {
  expect(readRule(rule)).toEqual(compared);
  expect(writeRule(compared, type)).toBe(rule);
});

it.each(["read.a > 1 && read.b < 2", "size(read.list) > 3", "read.a > read.b", ""])("%s is an expression", (rule) => {
  expect(readRule(rule)).toBeUndefined();
});

it("writes an empty number as nought, so that it stays a rule", () => {
  expect(writeRule({ value: "n", how: ">", than: " " }, "number")).toBe("read.n > 0");
});

it.each([
  ["row.level < 3", { value: "level", how: "<", than: "3" }],
  ["row.up == false", { value: "up", how: "==", than: "false" }],
  ['row.state == "RED"', { value: "state", how: "==", than: "RED" }],
])("%s, of a row, is chosen, and written as it was", (rule, compared) => {
  expect(readRule(rule, "row")).toEqual(compared);
  expect(writeRowRule(compared)).toBe(rule);
  expect(readRule(rule)).toBeUndefined();
});
