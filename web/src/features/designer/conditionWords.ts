import { type Clause, type Group, isGroup, isRaw, type Part, plainValue, readCondition } from "./condition";

/** Paths that every ticket knows, as people call them. */
const KNOWN: Record<string, string> = {
  "ticket.impact": "impact",
  "ticket.urgency": "urgency",
  "ticket.priority": "priority",
  "ticket.state": "state",
  "ticket.title": "the title",
  "ticket.description": "the description",
  "ticket.service": "the service",
  "ticket.group": "the group",
  "ticket.assignee": "whoever has it",
  "ticket.requester": "the requester",
  "ticket.ci": "the CI",
  "ticket.kind": "the kind of ticket",
  "ci.kind": "the CI’s kind",
  "ci.site": "the CI’s site",
  "ci.name": "the CI’s name",
  "ci.owner": "the CI’s owner",
  "ci.life": "the CI’s life",
  "near.all": "all CIs beside it",
  "near.runsOn": "what the CI runs on",
  "near.carries": "what runs on the CI",
  "near.feeds": "what the CI feeds",
  "near.fedBy": "what feeds the CI",
};

/** A path as people call it. @param labels of fields that the organisation has added, by path */
export function fieldWords(path: string, labels: (path: string) => string | undefined = () => undefined): string {
  if (KNOWN[path]) return KNOWN[path];
  if (path.startsWith("signal.")) return `the signal’s ${spaced(path.slice(7))}`;
  if (path.startsWith("wished."))
    return fieldWords(`ci.${path.slice(7)}`, labels).replace("the CI’s ", "the CI’s wished ");
  const label = labels(path);
  if (path.startsWith("is.")) return `“${path.slice(3)}”`;
  if (label) return path.startsWith("ci.") ? `the CI’s ${lower(label)}` : lower(label);
  return path;
}

/** A name made of words run together: pictureAge is picture age. */
export const spaced = (name: string) => name.replace(/([a-z0-9])([A-Z])/g, (_, a, b) => `${a} ${b.toLowerCase()}`);

/** "Lock number" in the middle of a sentence; "CI" and the like stay. */
export const lower = (label: string) =>
  /^[A-Z][a-z]/.test(label) ? label.charAt(0).toLowerCase() + label.slice(1) : label;

const YES: Record<string, string> = {
  "service.passengers": "passengers meet the service",
  "ticket.major": "it is marked as major",
};

const NO: Record<string, string> = {
  "service.passengers": "passengers do not meet the service",
  "ticket.major": "it is not marked as major",
};

/** What was seen at a path: "impact was 3", "passengers meet the service". @param value in words */
export function seenWords(
  path: string,
  value: unknown,
  words: string,
  labels?: (path: string) => string | undefined,
): string {
  const said = value === true ? YES[path] : value === false ? NO[path] : undefined;
  return said ?? `${fieldWords(path, labels)} was ${words}`;
}

/** A condition as a sentence's part: "the CI’s kind is gate and impact is at most 3". What cannot be said so stays as it is. */
export function conditionWords(text: string, labels?: (path: string) => string | undefined): string {
  return groupWords(readCondition(text), labels);
}

function groupWords(group: Group, labels?: (path: string) => string | undefined): string {
  const joined = group.join === "all" ? " and " : " or ";
  return group.parts
    .map((p) => (isGroup(p) && p.parts.length > 1 ? `(${groupWords(p, labels)})` : partWords(p, labels)))
    .join(joined);
}

function partWords(part: Part, labels?: (path: string) => string | undefined): string {
  if (isGroup(part)) return groupWords(part, labels);
  if (!isRaw(part)) return clauseWords(part, labels);
  // The one function that conditions of triggers use most: words in a text, whatever their case.
  const words = /^lower\(([A-Za-z_][\w.]*)\)\.contains\(("[^"\\]*"|'[^'\\]*')\)$/.exec(part.raw);
  return words ? `${fieldWords(words[1] ?? "", labels)} contains “${plainValue(words[2] ?? "")}”` : part.raw;
}

function clauseWords({ field, operator, value }: Clause, labels?: (path: string) => string | undefined): string {
  const name = fieldWords(field, labels);
  const plain = plainValue(value);
  switch (operator) {
    case "holds":
      return YES[field] ?? (field.startsWith("is.") ? name : `${name} is yes`);
    case "does not hold":
      return NO[field] ?? (field.startsWith("is.") ? `not ${name}` : `${name} is no`);
    case "is known":
      return `${name} is known`;
    case "is not known":
      return `${name} is not known`;
    case "contains":
      return `${name} contains “${plain}”`;
    case "is one of":
      return `${name} is ${plain.split(", ").join(" or ")}`;
    case "above":
    case "below":
    case "at least":
    case "at most":
      return `${name} is ${operator} ${plain}`;
    default:
      return `${name} ${operator} ${plain}`;
  }
}
