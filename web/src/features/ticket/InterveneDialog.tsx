import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue } from "../../api/hooks";
import type { Run, Step, Version, Workflow } from "../../api/types";
import { allSteps, exitsOf, optionalExitsOf, waysOf } from "../../route/ofVersion";
import { Button, Dialog, Select, TextArea, Trouble } from "../../ui/kit";
import { consequences, type Kind, WHAT_IT_DOES } from "./consequences";
import { useSend } from "./useSend";

/** Intervenes in a run that may be well: the reason and who did it land on the record. */
export function InterveneDialog({ run, ticket, onClose }: { run: Run; ticket: string; onClose: () => void }) {
  const send = useSend(ticket, onClose);
  const actions = useCatalogue().data?.actions ?? [];
  const version = useQuery({
    queryKey: ["version", run.workflow, run.version],
    queryFn: () => api.get<Version>(`/api/workflows/${run.workflow}/versions/${run.version}`),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const workflow = useQuery({
    queryKey: ["workflow", run.workflow],
    queryFn: () => api.get<Workflow>(`/api/workflows/${run.workflow}`),
  });
  const held = run.status === "held";
  const steps = new Map(allSteps(version.data?.body.steps ?? []).map((s) => [s.id, s]));
  const open = run.visits.filter((v) => !v.endedAt && skippable(steps.get(v.step)));
  const versions = (workflow.data?.versions ?? []).map((v) => v.number).filter((n) => n !== run.version);
  const kinds: Kind[] = [
    held ? "resume" : "hold",
    ...(open.length ? (["skip"] as const) : []),
    "re-run from",
    ...(versions.length ? (["move to version"] as const) : []),
    "stop run",
    "stop and put back",
  ];
  const [chosen, setKind] = useState<Kind>();
  const kind = chosen ?? (held ? "resume" : "hold");
  const [visit, setVisit] = useState("");
  const [exit, setExit] = useState("");
  const [step, setStep] = useState("");
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");
  const at = open.length === 1 ? open[0] : open.find((v) => v.id === visit);
  const atStep = at && steps.get(at.step);
  const exits =
    atStep && atStep.kind !== "end"
      ? [...exitsOf(atStep, actions), ...optionalExitsOf(atStep)].filter((e) => waysOf(atStep)[e])
      : [];
  const way = exits.length === 1 ? exits[0] : exits.find((x) => x === exit);
  const top = (version.data?.body.steps ?? []).filter((s) => s.kind !== "end");
  const effects = consequences(kind, run, steps, kind === "skip" ? { step: at?.step, exit: way } : { step });
  return (
    <Dialog title={`Intervene in ${run.name}`} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({
            path: `/api/tickets/${ticket}/interventions`,
            body: {
              run: run.id,
              kind,
              reason,
              ...(kind === "skip" && at ? { visit: at.id, exit: way } : {}),
              ...(kind === "re-run from" ? { step } : {}),
              ...(kind === "move to version" ? { version: Number(to) } : {}),
            },
          });
        }}
      >
        <Select
          label="What to do"
          value={kind}
          onChange={(picked) => setKind(picked as Kind)}
          options={kinds.map((k) => ({ value: k, label: k.charAt(0).toUpperCase() + k.slice(1) }))}
        />
        <p className="text-sm text-ink-2">{WHAT_IT_DOES[kind]}</p>
        {kind === "skip" && (
          <>
            {open.length > 1 && (
              <Select
                label="Which step"
                required
                value={visit}
                onChange={(picked) => {
                  setVisit(picked);
                  setExit("");
                }}
                options={[
                  { value: "", label: "choose a step…" },
                  ...open.map((v) => ({ value: v.id, label: steps.get(v.step)?.name ?? v.step })),
                ]}
              />
            )}
            {atStep && (
              <Select
                label={`Leave “${atStep.name}” by`}
                required
                value={way ?? ""}
                onChange={(picked) => setExit(picked)}
                options={[
                  ...(exits.length === 1 ? [] : [{ value: "", label: "choose how…" }]),
                  ...exits.map((x) => ({ value: x, label: x })),
                ]}
              />
            )}
          </>
        )}
        {kind === "re-run from" && (
          <Select
            label="From"
            required
            value={step}
            onChange={(picked) => setStep(picked)}
            options={[{ value: "", label: "choose a step…" }, ...top.map((s) => ({ value: s.id, label: s.name }))]}
          />
        )}
        {kind === "move to version" && (
          <Select
            label="Version"
            required
            value={to}
            onChange={(picked) => setTo(picked)}
            options={[
              { value: "", label: "choose a version…" },
              ...versions.map((n) => ({
                value: String(n),
                label: n === workflow.data?.liveVersion ? `${n}, live` : String(n),
              })),
            ]}
          />
        )}
        {effects.length > 0 && (
          <ul aria-label="What it does to this run" className="rounded-lg border border-hairline bg-sheet px-3 py-2">
            {effects.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        )}
        <TextArea
          label="Why"
          help="Goes onto the record."
          required
          rows={2}
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look={kind.startsWith("stop") ? "danger" : "primary"} type="submit" disabled={send.isPending}>
            {kind.charAt(0).toUpperCase() + kind.slice(1)}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

const skippable = (step: Step | undefined) =>
  step !== undefined && !["automation", "capture", "stage", "fork", "for each", "repeat", "end"].includes(step.kind);
