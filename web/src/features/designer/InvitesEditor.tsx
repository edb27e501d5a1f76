import type { Step, StepOf, Version } from "../../api/types";
import { allSteps } from "../../route/ofVersion";
import { Select } from "../../ui/kit";
import { ExpressionInput } from "./ExpressionInput";
import { ValueOf } from "./ValueEditor";

type Notify = StepOf<"notify">;
type Kind = "none" | "invites" | "off";

const kindOf = (step: Notify): Kind =>
  step.invites === undefined ? "none" : step.invites.off === undefined ? "invites" : "off";

/** Whether a message stands in calendars too: as an invitation, or as calling an earlier one off. */
export function InvitesEditor({
  step,
  version,
  onChange,
}: {
  step: Notify;
  version: Version;
  onChange: (s: Step) => void;
}) {
  const kind = kindOf(step);
  const inviting = allSteps(version.body.steps).filter(
    (s) => s.kind === "notify" && s.id !== step.id && s.invites !== undefined && s.invites.off === undefined,
  );
  const kinds: { value: Kind; label: string }[] = [
    { value: "none", label: "nothing" },
    { value: "invites", label: "that they are invited, by mail" },
    ...(inviting.length > 0 || kind === "off" ? [{ value: "off" as const, label: "that it is called off" }] : []),
  ];
  const invites = step.invites ?? {};
  return (
    <>
      <Select
        label="Their calendars are told"
        value={kind}
        options={kinds}
        onChange={(picked) =>
          onChange({
            ...step,
            invites:
              picked === "none"
                ? undefined
                : picked === "off"
                  ? { off: inviting[0]?.id ?? "" }
                  : { from: "ticket.plannedStart", until: "ticket.plannedEnd" },
          })
        }
      />
      {kind === "invites" && (
        <>
          <ValueOf
            label="It begins"
            of="It begins"
            field={{ type: "time" }}
            version={version}
            value={invites.from ?? ""}
            onChange={(from) => onChange({ ...step, invites: { ...invites, from } })}
          />
          <ValueOf
            label="It ends"
            of="It ends"
            field={{ type: "time" }}
            version={version}
            value={invites.until ?? ""}
            onChange={(until) => onChange({ ...step, invites: { ...invites, until } })}
          />
          <ExpressionInput
            label="Where"
            kind="text"
            version={version}
            value={invites.place ?? ""}
            onChange={(place) => onChange({ ...step, invites: { ...invites, place: place || undefined } })}
          />
        </>
      )}
      {kind === "off" && (
        <Select
          label="The invitation of"
          value={invites.off ?? ""}
          options={inviting.map((s) => ({ value: s.id, label: s.name }))}
          onChange={(off) => onChange({ ...step, invites: { off } })}
        />
      )}
    </>
  );
}
