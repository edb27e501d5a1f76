import {
  type Completion,
  type CompletionContext,
  type CompletionResult,
  snippetCompletion,
} from "@codemirror/autocomplete";
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from "@codemirror/language";
import { EditorView } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import type { Known } from "./paths";

/** How the notation's parts are told apart: what a line begins with, names of steps, texts, values in them, ways. */
export const notation = StreamLanguage.define<{ begins: boolean; text: boolean }>({
  name: "notation",
  startState: () => ({ begins: true, text: false }),
  token(stream, state) {
    if (stream.sol()) {
      state.begins = true;
      state.text = false;
      if (stream.eatSpace()) return null;
    }
    if (state.text) {
      if (stream.match("{{")) {
        stream.skipTo("}}");
        stream.match("}}");
        return "variableName";
      }
      if (stream.match('"')) state.text = false;
      else if (stream.match("\\")) stream.next();
      else if (!stream.eatWhile(/[^"\\{]/)) stream.next();
      return "string";
    }
    if (stream.match('"')) {
      state.begins = false;
      state.text = true;
      return "string";
    }
    if (stream.match(/^#.*/)) return "comment";
    if (stream.match("->")) return "operator";
    if (state.begins && stream.match(/^[A-Za-z]\w*:/)) return "labelName";
    if (state.begins && stream.match(/^[a-z]+( (each|by|in|the|side))*/)) {
      state.begins = false;
      return "keyword";
    }
    state.begins = state.begins && /\s/.test(stream.peek() ?? "");
    if (stream.match(/^-?\d+(\.\d+)?/)) return "number";
    if (!stream.eatWhile(/\w/)) stream.next();
    return null;
  },
  languageData: { commentTokens: { line: "#" } },
});

export const looks = [
  syntaxHighlighting(
    HighlightStyle.define([
      { tag: tags.keyword, fontWeight: "600", color: "var(--pine)" },
      { tag: tags.labelName, color: "var(--ink-2)" },
      { tag: tags.variableName, color: "var(--soon)" },
      { tag: tags.operator, fontWeight: "600" },
      { tag: tags.comment, fontStyle: "italic", color: "var(--ink-2)" },
    ]),
  ),
  EditorView.theme({
    "&": { height: "100%", fontSize: "12.5px", backgroundColor: "var(--sheet)", color: "var(--ink)" },
    ".cm-scroller": { fontFamily: "var(--font-mono)", lineHeight: "1.65" },
    ".cm-content": { caretColor: "var(--ink)" },
    ".cm-cursor": { borderLeftColor: "var(--ink)" },
    ".cm-gutters": {
      backgroundColor: "var(--raised)",
      color: "var(--ink-2)",
      borderRight: "1px solid var(--hairline)",
    },
    ".cm-line.cm-chosen": { backgroundColor: "var(--selected)" },
    "&.cm-focused": { outline: "2px solid var(--pine)", outlineOffset: "-2px" },
    "&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground": {
      backgroundColor: "var(--selected-edge)",
    },
    ".cm-tooltip": { backgroundColor: "var(--raised)", border: "1px solid var(--hairline)", color: "var(--ink)" },
    ".cm-tooltip-autocomplete > ul > li[aria-selected]": { backgroundColor: "var(--selected)", color: "var(--ink)" },
  }),
];

/** Sentences that make a step, with what is to be filled in. */
const SENTENCES: Completion[] = [
  ["ask", 'ask group #{group} "#{What is to be done}": "#{Done}"', "a task for people"],
  ["approve", 'approve "#{What is decided?}" by any one of group #{group}', "a decision"],
  ["run", 'run #{action} "#{What it does}"', "an automated step"],
  ["tell", 'tell the requester "#{Subject}"', "a message"],
  ["update", 'update "#{What changes}"', "sets values"],
  ["wait", "wait #{10 min}", "lets time pass, or waits for something"],
  ["if", 'if #{ticket.impact <= 2} "#{Is it grave?}"', "goes one of two ways"],
  ["check", 'check "#{What must hold}"', "judges by rules, again if need be"],
  ["stage", 'stage "#{Name}"', "steps that belong together"],
  ["for each", "for each #{one} in #{steps.list.items}", "the same steps for each of a list"],
  ["repeat", "repeat until #{condition}", "the same steps again and again"],
  ["call in", 'call in #{ladder} "#{Why}"', "fetches somebody"],
  ["call", "call #{workflow}", "another workflow"],
  ["done", 'done "#{result}"', "the run ends"],
].map(([label = "", template = "", detail = ""]) => snippetCompletion(template, { label, detail, type: "keyword" }));

/**
 * What can stand where the cursor is: steps after an arrow, values between double braces, else the beginning of a sentence.
 *
 * @param steps names of steps by id
 */
export function completes(steps: () => Map<string, string>, known: () => Known[]) {
  return (context: CompletionContext): CompletionResult | null => {
    const line = context.state.doc
      .lineAt(context.pos)
      .text.slice(0, context.pos - context.state.doc.lineAt(context.pos).from);
    const way = /->\s*(\w*)$/.exec(line);
    if (way)
      return {
        from: context.pos - (way[1]?.length ?? 0),
        options: [...steps()].map(([label, detail]) => ({ label, detail, type: "constant" })),
      };
    const value = /\{\{\s*([\w.]*)$/.exec(line);
    if (value)
      return {
        from: context.pos - (value[1]?.length ?? 0),
        options: known().map((k) => ({ label: k.path, detail: k.says, type: "variable" })),
      };
    const begins = /^\s*(?:[A-Za-z]\w*:\s*)?([a-z ]*)$/.exec(line);
    if (!begins || (begins[1] === "" && !context.explicit)) return null;
    return { from: context.pos - (begins[1]?.length ?? 0), options: SENTENCES };
  };
}

/** Which line a step begins in, counted from 1; 0 where it has none. */
export function lineOf(text: string, step: string): number {
  return text.split("\n").findIndex((l) => l.trimStart().startsWith(`${step}:`)) + 1;
}

/** The step that a line belongs to: the last one that begins in it or above. */
export function stepAt(text: string, line: number, steps: Set<string>): string | undefined {
  const lines = text.split("\n");
  for (let i = line - 1; i >= 0; i--) {
    const id = /^\s*([A-Za-z]\w*):/.exec(lines[i] ?? "")?.[1];
    if (id && steps.has(id)) return id;
  }
  return undefined;
}
