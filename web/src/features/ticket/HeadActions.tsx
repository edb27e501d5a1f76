import { useNames } from "../../api/hooks";
import type { Ticket } from "../../api/types";
import { Button, Select, Trouble } from "../../ui/kit";
import { useSession } from "../signin/session";
import { useSend } from "./useSend";

/** States that ask for more than a stroke: what was done is said, or what ends with it is shown first. */
const ASKS_MORE = ["closed", "cancelled", "stopped", "refused", "backed out"];

/** State, group and whoever has it, changed where they are seen (R7). An end is said in the dialog, with all it asks for. */
export function HeadActions({ ticket, onEnd }: { ticket: Ticket; onEnd: (state: string) => void }) {
  const { directory } = useNames();
  const { session } = useSession();
  const save = useSend(ticket.number);
  const set = (field: string, value: string) =>
    save.mutate({
      path: `/api/tickets/${ticket.number}`,
      put: true,
      body: { fields: { [field]: value === "" ? null : value } },
    });
  const people = (directory?.people ?? []).filter((p) => p.active);
  const assignee = String(ticket.fields.assignee ?? "");
  const mine = assignee === session.id;
  const works = people.some((p) => p.id === session.id);
  return (
    <div className="shrink-0 border-b border-hairline bg-raised px-5 py-1.5">
      <div role="group" aria-label="State and who has it" className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <span className="text-sm text-ink-2">It is</span>
        <Select
          label="State of the ticket"
          hideLabel
          className="w-36"
          disabled={save.isPending}
          value={ticket.state}
          onChange={(state) => {
            if (state === ticket.state) return;
            if (ASKS_MORE.includes(state)) onEnd(state);
            else set("state", state);
          }}
          options={[ticket.state, ...ticket.moves].map((s) => ({ value: s, label: s }))}
        />
        <span className="text-sm text-ink-2">with</span>
        <Select
          label="Group that has it"
          hideLabel
          className="w-44"
          disabled={save.isPending}
          value={String(ticket.fields.group ?? "")}
          onChange={(group) => set("group", group)}
          options={[
            { value: "", label: "no group" },
            ...(directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })),
          ]}
        />
        <Select
          label="Whoever has it"
          hideLabel
          className="w-44"
          disabled={save.isPending}
          value={assignee}
          onChange={(person) => set("assignee", person)}
          options={[{ value: "", label: "nobody" }, ...people.map((p) => ({ value: p.id, label: p.name }))]}
        />
        {works && !mine && (
          <Button disabled={save.isPending} onClick={() => set("assignee", session.id)}>
            {assignee ? "Take it over" : "Take it"}
          </Button>
        )}
        {ticket.moves.includes("closed") && (
          <Button look="quiet" disabled={save.isPending} onClick={() => onEnd("closed")}>
            Close…
          </Button>
        )}
      </div>
      {save.isError && <Trouble error={save.error} />}
    </div>
  );
}
