import { useState } from "react";
import type { Ticket } from "../../api/types";
import { Button, Dialog, Select, Trouble } from "../../ui/kit";
import { FormFields, type FormValues } from "./FormFields";
import { useSend } from "./useSend";

/** Starts a workflow by hand. */
export function StartDialog({ ticket, onClose }: { ticket: Ticket; onClose: () => void }) {
  const [workflow, setWorkflow] = useState("");
  const [inputs, setInputs] = useState<FormValues>({});
  const chosen = ticket.startable.find((s) => s.workflow === workflow) ?? ticket.startable[0];
  const send = useSend(ticket.number, onClose);
  return (
    <Dialog title="Start a workflow" open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ path: `/api/tickets/${ticket.number}/runs`, body: { workflow: chosen?.workflow, inputs } });
        }}
      >
        <Select
          label="Workflow"
          value={chosen?.workflow}
          onChange={(e) => setWorkflow(e.target.value)}
          options={ticket.startable.map((s) => ({ value: s.workflow, label: s.name }))}
        />
        {chosen && chosen.startForm.length > 0 && (
          <FormFields fields={chosen.startForm} values={inputs} onChange={setInputs} />
        )}
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={send.isPending}>
            Start it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
