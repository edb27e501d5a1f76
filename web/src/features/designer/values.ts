import type { Field } from "../../api/types";
import { fieldWords } from "./conditionWords";
import { expressionWords } from "./expressionWords";

/** Where a value comes from, as people choose it. What cannot be said so is an expression. */
export type Value =
  /** Said here: as people write it, without quotes. */
  | { from: "here"; said: string }
  /** What is known by then, or what stands in for it where nothing is. */
  | { from: "known"; path: string; otherwise?: string }
  /** A text with values in it. */
  | { from: "words"; text: string }
  | { from: "expression"; code: string };

export type From = Value["from"];

/** A value as a step keeps it: a text with values in it, or an expression. */
export interface Kept {
  text?: string;
  value?: string;
}

type Type = Field["type"];

const NUMBERS: Type[] = ["whole number", "number"];

/** Types that nobody can write down here so that the engine reads them. */
const NOT_SAID: Type[] = ["time", "list"];

/** Whether a value of a type can be said by choosing or typing it. */
export const canBeSaid = (type: Type) => !NOT_SAID.includes(type);

const PATH = /^[A-Za-z]\w*(?:\.[A-Za-z]\w*)+$/;

/** The text of a literal in single or double quotes, without any that is cut open by another. */
function unquoted(code: string): string | undefined {
  const quote = code[0];
  if ((quote !== '"' && quote !== "'") || code.length < 2 || !code.endsWith(quote)) return undefined;
  const inside = code.slice(1, -1);
  if (inside.replace(/\\./g, "").includes(quote)) return undefined;
  return inside.replace(/\\(.)/g, (_, c) => (c === "n" ? "\n" : c));
}

const quoted = (text: string) => JSON.stringify(text);

/** What a literal says, as a value of a type; undefined for what is no literal of it. */
function literal(code: string, type: Type): string | undefined {
  if (NUMBERS.includes(type)) return /^-?\d+(\.\d+)?$/.test(code) ? code : undefined;
  if (type === "yes or no") return code === "true" || code === "false" ? code : undefined;
  return canBeSaid(type) ? unquoted(code) : undefined;
}

/** How a value that is said here is written as an expression. */
const written = (said: string, type: Type) =>
  NUMBERS.includes(type) || type === "yes or no" ? said.trim() : quoted(said);

/** Reads what a step keeps. Nothing yet is a value that is said here and still empty. */
export function readValue({ text, value }: Kept, type: Type): Value {
  if (text !== undefined) return text.includes("{{") ? { from: "words", text } : { from: "here", said: text };
  const code = (value ?? "").trim();
  if (code === "") return { from: "here", said: "" };
  const said = literal(code, type);
  if (said !== undefined) return { from: "here", said };
  if (PATH.test(code)) return { from: "known", path: code };
  const [path, rest] = code.split(/\s*\?\?\s*(.*)/s);
  if (path && rest && PATH.test(path)) {
    const otherwise = literal(rest.trim(), type);
    if (otherwise !== undefined) return { from: "known", path, otherwise };
  }
  return { from: "expression", code };
}

/**
 * What a step keeps of a value.
 *
 * @param asText whether what is said and is a text is kept as a text, as updates do
 */
export function keptValue(value: Value, type: Type, asText: boolean): Kept {
  switch (value.from) {
    case "words":
      return { text: value.text };
    case "here": {
      const plain = NUMBERS.includes(type) || type === "yes or no";
      // What holds the signs for a value would be read as one, so it is an expression.
      if (asText && !plain && !value.said.includes("{{")) return { text: value.said };
      return { value: value.said === "" ? "" : written(value.said, type) };
    }
    case "known":
      return {
        value: !value.path ? "" : value.otherwise ? `${value.path} ?? ${written(value.otherwise, type)}` : value.path,
      };
    case "expression":
      return { value: value.code };
  }
}

/** Another way to say a value; what was said is taken over where that is possible. */
export function turned(value: Value, to: From, type: Type): Value {
  if (value.from === to) return value;
  const kept = keptValue(value, type, to === "words");
  switch (to) {
    case "here":
      return { from: "here", said: value.from === "words" && !value.text.includes("{{") ? value.text : "" };
    case "known":
      return { from: "known", path: "", ...(value.from === "here" && value.said ? { otherwise: value.said } : {}) };
    case "words":
      return {
        from: "words",
        text: kept.text ?? (value.from === "known" && value.path ? `{{ ${kept.value} }}` : ""),
      };
    case "expression":
      return { from: "expression", code: kept.value ?? (kept.text ? quoted(kept.text) : "") };
  }
}

/** A value in words, as the route and findings say it. @param pathWords what a path is called @param named what people call a said value */
export function valueSaid(
  kept: Kept,
  pathWords: (path: string) => string = fieldWords,
  named?: (id: string) => string,
): string {
  const value = readValue(kept, "any value");
  switch (value.from) {
    case "here":
      if (value.said !== "" && named) return named(value.said);
      return value.said === "" ? "nothing yet" : `“${value.said}”`;
    case "known":
      return `${pathWords(value.path)}${value.otherwise ? `, else “${value.otherwise}”` : ""}`;
    case "words": {
      const alone = /^\s*\{\{\s*([^{}]*?)\s*\}\}\s*$/.exec(value.text)?.[1];
      if (alone !== undefined) return insideWords(alone, pathWords);
      return `“${value.text.replace(/\{\{\s*(.*?)\s*\}\}/g, (_, code) => `‹${insideWords(code, pathWords)}›`)}”`;
    }
    case "expression":
      if (/^-?\d+(\.\d+)?$/.test(value.code)) return value.code;
      if (value.code === "true") return "yes";
      if (value.code === "false") return "no";
      return expressionWords(value.code, pathWords) ?? value.code;
  }
}

const insideWords = (code: string, pathWords: (path: string) => string) => {
  const inner = readValue({ value: code }, "any value");
  return inner.from === "known" ? pathWords(inner.path) : (expressionWords(code, pathWords) ?? code);
};
