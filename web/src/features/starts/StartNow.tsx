import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { LiveTrigger, Workflow } from "../../api/types";
import { Button, Dialog, Loading, Trouble } from "../../ui/kit";
import { useSession, works } from "../signin/session";
import { FormFields, type FormValues } from "../ticket/FormFields";

/** Starts now what a schedule or a hook starts, with what its start form asks for; asks before. */
export function StartNow({ live }: { live: LiveTrigger }) {
  const { session } = useSession();
  const [open, setOpen] = useState(false);
  if (!works(session)) return null;
  return (
    <>
      <Button aria-label={`Start now: ${live.name}`} onClick={() => setOpen(true)}>
        Start now
      </Button>
      {open && <Asked live={live} onClose={() => setOpen(false)} />}
    </>
  );
}

function Asked({ live, onClose }: { live: LiveTrigger; onClose: () => void }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [given, setGiven] = useState<FormValues>({});
  const workflow = useQuery({
    queryKey: ["workflow", live.workflow],
    queryFn: () => api.get<Workflow>(`/api/workflows/${live.workflow}`),
  });
  const { when } = live.trigger;
  const bySchedule = when.is === "time comes" ? (when.inputs ?? {}) : {};
  const fields = (workflow.data?.live?.startForm ?? []).filter((f) => !(f.name in bySchedule));
  const start = useMutation({
    mutationFn: () => api.post<{ ticket: string }>(`/api/triggers/${live.trigger.id}/starts`, { inputs: given }),
    onSuccess: ({ ticket }) => {
      queries.invalidateQueries({ queryKey: ["schedules"] });
      navigate({ to: "/tickets/$number", params: { number: ticket } });
    },
  });
  return (
    <Dialog title={`Start ${live.name} now`} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          start.mutate();
        }}
      >
        <p>
          It opens {when.kind === "incident" ? "an incident" : `a ${when.kind}`} and starts there, as it does by itself.
          The record says that you started it.
        </p>
        {workflow.isPending && <Loading what="its start form" />}
        {workflow.isLoadingError && <Trouble error={workflow.error} onRetry={() => workflow.refetch()} />}
        <FormFields fields={fields} values={given} onChange={setGiven} />
        {start.isError && <Trouble error={start.error} />}
        <div className="flex gap-2">
          <Button look="primary" type="submit" disabled={start.isPending || !workflow.data}>
            Start it
          </Button>
          <Button onClick={onClose}>Not now</Button>
        </div>
      </form>
    </Dialog>
  );
}
