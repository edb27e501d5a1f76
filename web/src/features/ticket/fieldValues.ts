import type { Field } from "../../api/types";
import type { FieldValue } from "./FieldInput";

const two = (n: number) => String(n).padStart(2, "0");

/** An instant as a moment in the reader's zone: 2026-12-01T08:00. What is no instant stays as it is. */
export function localOf(instant: string): string {
  const at = new Date(instant);
  return instant === "" || Number.isNaN(at.getTime())
    ? instant
    : `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}`;
}

/** A moment in the reader's zone as an instant. */
export const instantOf = (local: string): string => new Date(local).toISOString();

/** A value as text that can be compared and kept: a list has a line for each. */
export const textOf = (value: unknown): string =>
  value === undefined || value === null ? "" : Array.isArray(value) ? value.join("\n") : String(value);

/** What a text means in a field of its type; undefined for nothing. */
export function meantBy(field: Field | undefined, text: string): FieldValue | undefined {
  if (text === "") return undefined;
  switch (field?.type) {
    case "whole number":
    case "number":
      return Number(text);
    case "yes or no":
      return text === "true";
    case "list":
      return linesOf(text);
    default:
      return text;
  }
}

/** The lines of a list that say something; undefined for none. */
export function linesOf(text: string): string[] | undefined {
  const lines = text
    .split("\n")
    .map((l) => l.trim())
    .filter(Boolean);
  return lines.length > 0 ? lines : undefined;
}
