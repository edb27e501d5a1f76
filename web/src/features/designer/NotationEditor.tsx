import { autocompletion, closeBrackets, completionKeymap } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { Annotation, Compartment, EditorState, StateEffect, StateField } from "@codemirror/state";
import { Decoration, EditorView, keymap, lineNumbers } from "@codemirror/view";
import { useEffect, useRef } from "react";
import { completes, looks, notation } from "./notationMode";
import type { Known } from "./paths";

/** A mark at a line: what is wrong there. */
export interface Mark {
  /** From 1. */
  line: number;
  /** From 1; 0 for the whole line. */
  column: number;
  message: string;
  grave: boolean;
}

/** What was put in from outside is not typed. */
const FROM_OUTSIDE = Annotation.define<boolean>();

const choose = StateEffect.define<number>();
const chosenLine = StateField.define({
  create: () => Decoration.none,
  update(marks, tr) {
    for (const e of tr.effects)
      if (e.is(choose))
        return e.value > 0 && e.value <= tr.state.doc.lines
          ? Decoration.set([Decoration.line({ class: "cm-chosen" }).range(tr.state.doc.line(e.value).from)])
          : Decoration.none;
    return marks.map(tr.changes);
  },
  provide: (f) => EditorView.decorations.from(f),
});

/**
 * The notation as text, with what is wrong at its lines. What stands outside comes in as the smallest change, so that the
 * cursor stays where it is.
 *
 * @param chosen the line of the step that is chosen beside it, shown when it is not the cursor's own; 0 for none
 */
export function NotationEditor({
  text,
  readOnly,
  marks,
  chosen,
  steps,
  known,
  onType,
  onLine,
  onTakeOver,
}: {
  text: string;
  readOnly: boolean;
  marks: Mark[];
  chosen: number;
  steps: Map<string, string>;
  known: Known[];
  onType: (text: string) => void;
  onLine: (line: number) => void;
  onTakeOver: () => void;
}) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const live = useRef({ onType, onLine, onTakeOver, steps, known });
  live.current = { onType, onLine, onTakeOver, steps, known };
  const writable = useRef(new Compartment());
  const first = useRef({ text, readOnly });

  useEffect(() => {
    if (!host.current) return;
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: first.current.text,
        extensions: [
          lineNumbers(),
          history(),
          closeBrackets(),
          autocompletion({
            override: [
              completes(
                () => live.current.steps,
                () => live.current.known,
              ),
            ],
          }),
          notation,
          looks,
          lintGutter(),
          chosenLine,
          EditorView.lineWrapping,
          EditorView.cspNonce.of(document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? ""),
          EditorView.contentAttributes.of({ "aria-label": "Notation", spellcheck: "false", tabindex: "0" }),
          writable.current.of(EditorState.readOnly.of(first.current.readOnly)),
          // Tab leaves the text, so that nobody is caught in it.
          keymap.of([
            {
              key: "Mod-Enter",
              run: () => {
                live.current.onTakeOver();
                return true;
              },
            },
            ...completionKeymap,
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          EditorView.updateListener.of((u) => {
            const outside = u.transactions.some((t) => t.annotation(FROM_OUTSIDE));
            if (u.docChanged && !outside) live.current.onType(u.state.doc.toString());
            if ((u.selectionSet || u.docChanged) && !outside && u.view.hasFocus)
              live.current.onLine(u.state.doc.lineAt(u.state.selection.main.head).number);
          }),
        ],
      }),
    });
    view.current = editor;
    return () => editor.destroy();
  }, []);

  useEffect(() => {
    const editor = view.current;
    const was = editor?.state.doc.toString();
    if (!editor || was === undefined || was === text) return;
    let from = 0;
    while (from < was.length && from < text.length && was[from] === text[from]) from++;
    let back = 0;
    while (back < was.length - from && back < text.length - from && was.at(-1 - back) === text.at(-1 - back)) back++;
    editor.dispatch({
      changes: { from, to: was.length - back, insert: text.slice(from, text.length - back) },
      annotations: FROM_OUTSIDE.of(true),
    });
  }, [text]);

  useEffect(() => {
    view.current?.dispatch({ effects: writable.current.reconfigure(EditorState.readOnly.of(readOnly)) });
  }, [readOnly]);

  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const doc = editor.state.doc;
    const found = marks
      .filter((m) => m.line >= 1 && m.line <= doc.lines)
      .map((m): Diagnostic => {
        const line = doc.line(m.line);
        const from = Math.min(line.to, line.from + Math.max(0, m.column - 1));
        return { from, to: Math.max(from, line.to), message: m.message, severity: m.grave ? "error" : "warning" };
      });
    editor.dispatch(setDiagnostics(editor.state, found));
  }, [marks]);

  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const effects: StateEffect<unknown>[] = [choose.of(chosen)];
    if (chosen > 0 && chosen <= editor.state.doc.lines && !editor.hasFocus)
      effects.push(EditorView.scrollIntoView(editor.state.doc.line(chosen).from, { y: "center" }));
    editor.dispatch({ effects });
  }, [chosen]);

  return <div ref={host} className="min-h-0 flex-1 overflow-hidden" />;
}
