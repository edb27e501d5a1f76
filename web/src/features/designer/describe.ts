import type { Action, Step } from "../../api/types";
import { partyWords } from "../ticket/words";

type Names = { person: (id?: string) => string; group: (id?: string) => string };

/** What a row says about its step: a line below the name, who does it, and by when. */
export function describe(
  step: Step,
  names: Names,
  actions: Action[],
  ladderName: (key?: string) => string | undefined,
): { line: string; who: string; when: string } {
  switch (step.kind) {
    case "task":
      return {
        line: step.instructions ? `“${step.instructions}”` : "no instructions yet",
        who: partyWords(step.assignee, names),
        when: [step.due, ladderName(step.ladder)].filter(Boolean).join(" · "),
      };
    case "approval": {
      const rule = step.rule.rule === "at least" ? `at least ${step.rule.count}` : step.rule.rule;
      return {
        line: [rule, step.notRequester ? "not the requester" : "", step.setsOff ? `sets off: ${step.setsOff}` : ""]
          .filter(Boolean)
          .join(" · "),
        who: step.asked.map((p) => partyWords(p, names)).join(", ") || "nobody yet",
        when: [step.within, ladderName(step.ladder)].filter(Boolean).join(" · "),
      };
    }
    case "branch":
      return { line: step.cases.map((c) => `${c.name} if ${c.when}`).join("; "), who: "", when: "" };
    case "automation": {
      const action = actions.find((a) => a.key === step.action);
      const inputs = Object.entries(step.inputs).map(([k, v]) => `${k} = ${v}`);
      const tries = step.tries ?? action?.tries ?? 1;
      return {
        line: `${step.action} ( ${inputs.join(", ")} )`,
        who: action ? `machine · ${action.connection}` : "unknown action",
        when: [step.timeLimit ?? action?.timeLimit, tries > 1 ? `${tries} tries` : ""].filter(Boolean).join(" · "),
      };
    }
    case "notify":
      return {
        line: `mail · “${step.subject}”`,
        who: step.to.map((p) => partyWords(p, names)).join(", ") || "nobody yet",
        when: "",
      };
    case "update":
      return {
        line: step.set.map((s) => `${s.target} = ${s.value ?? `“${s.text ?? ""}”`}`).join(", "),
        who: "",
        when: "",
      };
    case "wait":
      return { line: step.span ? `for ${step.span}` : `until ${step.until ?? "…"}`, who: "", when: "" };
    case "end":
      return {
        line: [step.result, step.message ? "tells the requester" : ""].filter(Boolean).join(" · "),
        who: "",
        when: "",
      };
  }
}
