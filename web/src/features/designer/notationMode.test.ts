import { CompletionContext } from "@codemirror/autocomplete";
import { EditorState } from "@codemirror/state";
import { describe, expect, it } from "vitest";
import { completes, lineOf, notation, stepAt } from "./notationMode";

const TEXT = `workflow gate "Gate"
  owner ines

look: ask group technicians "Look at {{ ticket.ci }}" within 30 min: "Done", "Not"
  "Not" -> end
wait: wait 10 min
end: done "done"
`;

function parts(line: string): [string, string][] {
  const tree = notation.parser.parse(line);
  const found: [string, string][] = [];
  tree.iterate({
    enter: (n) => {
      if (n.name !== "Document") found.push([n.name, line.slice(n.from, n.to)]);
    },
  });
  return found;
}

function offered(text: string, explicit = false): string[] {
  const state = EditorState.create({ doc: text });
  const complete = completes(
    () =>
      new Map([
        ["look", "Look"],
        ["end", "The end"],
      ]),
    () => [{ path: "ticket.ci", says: "The CI" }],
  );
  return complete(new CompletionContext(state, text.length, explicit))?.options.map((o) => o.label) ?? [];
}

describe("the notation in the editor", () => {
  it("tells parts apart, values within texts too", () => {
    const all = parts('look: ask group technicians "Look at {{ ticket.ci }}" within 30 min');
    expect(all).toContainEqual(["labelName", "look:"]);
    expect(all).toContainEqual(["keyword", "ask"]);
    expect(all).toContainEqual(["variableName", "{{ ticket.ci }}"]);
    expect(all).toContainEqual(["number", "30"]);
    expect(parts('  "Not" -> end').map(([k]) => k)).toContain("operator");
    expect(parts("# why so")).toEqual([["comment", "# why so"]]);
  });

  it("goes on behind a text that never ends, line by line", () => {
    expect(parts('look: ask "never\nend: done "done"').filter(([k]) => k === "labelName")).toHaveLength(2);
  });

  it("offers steps after an arrow, values between braces, sentences at the beginning", () => {
    expect(offered('  "Not" -> ')).toEqual(["look", "end"]);
    expect(offered('tell "It is {{ tick')).toEqual(["ticket.ci"]);
    expect(offered("look: as")).toContain("ask");
    expect(offered("look: ")).toEqual([]);
    expect(offered("look: ", true)).toContain("approve");
    expect(offered('look: ask group technicians "Lo')).toEqual([]);
  });

  it("knows where a step begins, and whose line a line is", () => {
    const steps = new Set(["look", "wait", "end"]);
    expect(lineOf(TEXT, "wait")).toBe(6);
    expect(lineOf(TEXT, "nothing")).toBe(0);
    expect(stepAt(TEXT, 5, steps)).toBe("look");
    expect(stepAt(TEXT, 2, steps)).toBeUndefined();
  });
});
