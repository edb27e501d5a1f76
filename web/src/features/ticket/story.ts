import type { Entry } from "../../api/types";
import { ofMachines } from "./stories/ofMachines";
import { ofMessages } from "./stories/ofMessages";
import { ofPartners } from "./stories/ofPartners";
import { ofPeople } from "./stories/ofPeople";
import { ofRuns } from "./stories/ofRuns";
import { ofTickets } from "./stories/ofTickets";
import type { Names, Story, Tellers } from "./stories/parts";

/** Every kind of entry that the server describes; one that nobody tells does not compile. */
const TELLERS: Tellers<Entry["kind"]> = {
  ...ofTickets,
  ...ofPartners,
  ...ofRuns,
  ...ofMachines,
  ...ofPeople,
  ...ofMessages,
};

/** The entry as a sentence that says which step it is about: of several side by side one could not tell else. */
export function story(entry: Entry, names: Names): Story {
  const told = called(tell(entry, names), entry.labels);
  const step = entry.stepName;
  const said = told.parts.map((p) => (typeof p === "string" ? p : p.strong)).join("");
  return !step || said.includes(step) ? told : { ...told, parts: [`${step} · `, ...told.parts] };
}

/** What records keep under short names stands under those by which people know it. */
function called(told: Story, labels: Entry["labels"]): Story {
  if (!told.rows || !labels) return told;
  return { ...told, rows: told.rows.map(([name, ...rest]) => [labels[name] ?? name, ...rest]) };
}

/** An entry that was forged, or that another release wrote, may hold anything: the rest of the record is read all the same. */
function tell(entry: Entry, names: Names): Story {
  const teller = TELLERS[entry.kind] as ((told: unknown) => Story) | undefined;
  try {
    return teller?.({ body: entry.body, content: entry.content ?? {}, entry, names }) ?? { parts: [entry.kind] };
  } catch {
    return { parts: [`${entry.kind}: it does not hold what such an entry holds`], tone: "late" };
  }
}
