import type { Action, Step, StepOf } from "../../api/types";
import { allSteps } from "../../route/ofVersion";
import { type Names, partyWords } from "../ticket/words";
import { conditionWords, fieldWords, lower } from "./conditionWords";
import { valueSaid } from "./values";

/** What an end does, in words. */
export const ENDINGS: Record<StepOf<"end">["ending"], string> = {
  line: "the line is done",
  failed: "the line has failed",
  leave: "leaves the part around it by this name",
  "put back": "puts back what was done, then leaves",
  run: "ends the whole run",
};

/** A rule of a check as a sentence. @param says what a path is called */
export function ruleWords(r: StepOf<"check">["rules"][number], says: (path: string) => string = fieldWords): string {
  const value = valueSaid({ value: r.value }, says);
  const against = r.against === undefined ? "…" : valueSaid({ value: r.against }, says);
  const compared =
    r.compare === "holds"
      ? "holds"
      : r.compare === "within"
        ? `within ${r.share ?? 0} % of ${against}`
        : `${r.compare} ${against}`;
  return `${value} ${compared}${r.sense === "should stay" ? ", as before" : ""}`;
}

/** A rule by its name, which is not said twice where it is the value's. */
function namedRule(r: StepOf<"check">["rules"][number], says: (path: string) => string): string {
  const words = ruleWords(r, says);
  return words.toLowerCase().startsWith(`${r.name.toLowerCase()} `) ? words : `${r.name}: ${words}`;
}

/** What a path is called where something is measured: what the action gives has its label. */
const measuredBy =
  (step: StepOf<"check">, actions: Action[], says: (path: string) => string) =>
  (path: string): string => {
    const name = /^measured\.(\w+)$/.exec(path)?.[1];
    const gives = actions.find((a) => a.key === step.measure)?.outputs ?? [];
    return name === undefined
      ? says(path)
      : (gives.find((o) => o.field.name === name)?.field.label ?? `the measured ${name}`);
  };

/** How people call what is set: groups, people and services go by names. */
const namedIn = (target: string, names: Names): ((id: string) => string) | undefined =>
  ({ "ticket.group": names.group, "ticket.assignee": names.person, "ticket.requester": names.person })[target];

/** What a row says about its step: a line below the name, who does it, and by when. */
export function describe(
  step: Step,
  names: Names,
  actions: Action[],
  ladderName: (key?: string) => string | undefined,
  pathSays: (path: string) => string = fieldWords,
): { line: string; who: string; when: string } {
  const condition = (code: string) => conditionWords(code, pathSays);
  const text = (words: string) => valueSaid({ text: words }, pathSays);
  switch (step.kind) {
    case "task":
      return {
        line: step.instructions ? text(step.instructions) : "",
        who: partyWords(step.assignee, names),
        when: [step.due, ladderName(step.ladder)].filter(Boolean).join(" · "),
      };
    case "approval": {
      const rule =
        step.rule.rule === "at least"
          ? `at least ${step.rule.count}`
          : step.rule.rule === "share"
            ? `at least ${step.rule.percent} percent`
            : step.rule.rule;
      return {
        line: [
          rule,
          step.notRequester ? "not the requester" : "",
          step.setsOff ? `sets off: ${text(step.setsOff).replace(/^“|”$/g, "")}` : "",
        ]
          .filter(Boolean)
          .join(" · "),
        who: step.asked.map((p) => partyWords(p, names)).join(", ") || "nobody yet",
        when: [step.within, ladderName(step.ladder)].filter(Boolean).join(" · "),
      };
    }
    case "capture":
      return {
        line: `measures with ${actions.find((a) => a.key === step.action)?.name ?? step.action}`,
        who: actions.find((a) => a.key === step.action) ? "machine" : "unknown action",
        when: step.timeLimit ?? "",
      };
    case "check":
      return {
        line: step.rules.map((r) => namedRule(r, measuredBy(step, actions, pathSays))).join("; ") || "no rules yet",
        who: step.review ? `reviewed by ${partyWords(step.review, names)}` : "",
        when: step.settle ? `settles within ${step.settle}` : "",
      };
    case "call":
      return {
        line: `runs ${step.workflow}`,
        who:
          step.on?.is === "new"
            ? `on a new ${step.on.raises}`
            : step.on?.is === "known"
              ? `on the ticket ${step.on.number}`
              : "another workflow",
        when: "",
      };
    case "escalate":
      return {
        line: `${step.as ? `as ${step.as} · ` : ""}${text(step.message)}`,
        who: ladderName(step.ladder) ?? step.ladder,
        when: step.within,
      };
    case "stage":
      return { line: `${allSteps(step.body.steps).length} steps inside`, who: "", when: "" };
    case "fork":
      return {
        line: step.lanes.map((l) => (l.when ? `${l.name} if ${condition(l.when)}` : l.name)).join(" · "),
        who: step.first ? `until the first ${step.first} are done` : "until all are done",
        when: "",
      };
    case "for each":
      return {
        line: `each ${step.item} of ${valueSaid({ value: step.list }, pathSays)}`,
        who: step.atOnce > 1 ? `${step.atOnce} at a time` : "one after the other",
        when: step.stopAtFirst ? "stops at a failure" : "",
      };
    case "repeat":
      return {
        line: `until ${condition(step.until)}`,
        who: [step.pause ? `every ${step.pause}` : "", `at most ${step.rounds} rounds`].filter(Boolean).join(" · "),
        when: step.within ?? "",
      };
    case "branch":
      return {
        line: step.table
          ? `table of ${step.table.rows.length} ${step.table.rows.length === 1 ? "row" : "rows"} over ${step.table.inputs.map((i) => i.label).join(", ")}`
          : step.cases.map((c) => `${c.name} if ${condition(c.when)}`).join("; "),
        who: "",
        when: "",
      };
    case "automation": {
      const action = actions.find((a) => a.key === step.action);
      const inputs = Object.entries(step.inputs).map(
        ([k, v]) =>
          `${lower(action?.inputs.find((f) => f.name === k)?.label ?? k)}: ${valueSaid({ value: v }, pathSays)}`,
      );
      const tries = step.tries ?? action?.tries ?? 1;
      return {
        line: [action?.name ?? step.action, ...inputs].join(" · "),
        who: action ? `machine · ${action.connection}` : "unknown action",
        when: [step.timeLimit ?? action?.timeLimit, tries > 1 ? `${tries} tries` : ""].filter(Boolean).join(" · "),
      };
    }
    case "notify":
      return {
        line: `${step.room ? "in the room" : step.invites?.off ? "calls an invitation off" : step.invites ? "invitation" : "message"} · ${text(step.subject)}`,
        who: step.to.map((p) => partyWords(p, names)).join(", ") || "nobody yet",
        when: "",
      };
    case "update":
      return {
        line: [
          ...(step.of === undefined ? [] : [`of the CI ${valueSaid({ value: step.of }, pathSays)}`]),
          ...step.set.map((s) => `${pathSays(s.target)}: ${valueSaid(s, pathSays, namedIn(s.target, names))}`),
        ].join(" · "),
        who: "",
        when: "",
      };
    case "wait":
      return {
        line: step.span
          ? `for ${step.span}`
          : step.condition
            ? `until ${condition(step.condition)}`
            : step.signal
              ? `for the signal ${step.signal}${step.key ? ` of ${step.key}` : ""}`
              : step.replyOf
                ? `for a reply of ${partyWords(step.replyOf, names)}`
                : `until ${step.until ? valueSaid({ value: step.until }, pathSays) : "…"}`,
        who: "",
        when: step.within ? `at most ${step.within}` : "",
      };
    case "end":
      return {
        line: [ENDINGS[step.ending], step.message ? "tells the requester" : ""].filter(Boolean).join(" · "),
        who: "",
        when: "",
      };
  }
}
