import { useState } from "react";
import type { Ticket } from "../../api/types";
import { Choices } from "../../ui/Choices";
import { Button, Dialog, Trouble } from "../../ui/kit";
import { FormFields, type FormValues } from "./FormFields";
import { useSend } from "./useSend";

/** Starts a workflow by hand: the person says which, and sees what it will do before it does. */
export function StartDialog({ ticket, onClose }: { ticket: Ticket; onClose: () => void }) {
  const [workflow, setWorkflow] = useState<string>();
  const [inputs, setInputs] = useState<FormValues>({});
  const chosen = ticket.startable.find((s) => s.workflow === workflow);
  const running = ticket.runs.filter((r) => r.workflow === workflow && !r.endedAt).length;
  const send = useSend(ticket.number, onClose);
  return (
    <Dialog title={`Start a workflow on ${ticket.number}`} open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (chosen)
            send.mutate({ path: `/api/tickets/${ticket.number}/runs`, body: { workflow: chosen.workflow, inputs } });
        }}
      >
        <Choices
          label="Which workflow"
          value={workflow}
          onChange={(picked) => {
            setWorkflow(picked);
            setInputs({});
          }}
          className="flex max-h-[34vh] flex-col gap-1 overflow-auto"
          options={ticket.startable.map((s) => ({
            value: s.workflow,
            label: s.name,
            children: (
              <>
                <span className="block font-semibold">{s.name}</span>
                <span className="block text-sm text-ink-2">{s.purpose}</span>
              </>
            ),
          }))}
        />
        {chosen && (
          <section aria-label="What it will do" className="rounded-lg border border-hairline bg-sheet px-3 py-2">
            <p>
              It goes through <strong>{chosen.mainLine.join(" → ")}</strong>.
            </p>
            {chosen.machines.length > 0 && (
              <p className="mt-1">
                Machines then change something outside: <strong>{chosen.machines.join(", ")}</strong>.
              </p>
            )}
            {running > 0 && (
              <p className="mt-1 font-semibold text-soon">
                {running === 1 ? "One run of it is" : `${running} runs of it are`} under way on this ticket already.
              </p>
            )}
          </section>
        )}
        {chosen && chosen.startForm.length > 0 && (
          <FormFields fields={chosen.startForm} values={inputs} onChange={setInputs} />
        )}
        {send.isError && <Trouble error={send.error} />}
        <div>
          <Button look="primary" type="submit" disabled={!chosen || send.isPending}>
            {chosen ? `Start “${chosen.name}”` : "Choose a workflow"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
