import { useState } from "react";
import { ProblemError } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Field, Ticket } from "../../api/types";
import { Button, Dialog, Input, Select, Trouble } from "../../ui/kit";
import { FieldInput } from "./FieldInput";
import { meantBy, textOf } from "./fieldValues";
import { useSend } from "./useSend";

/** What every ticket has; other fields are shown where they are filled in, or asked for. */
const USUAL = new Set([
  "title",
  "description",
  "state",
  "impact",
  "urgency",
  "priority",
  "service",
  "ci",
  "group",
  "assignee",
  "requester",
]);

/** What a change has besides: while its window is open, or it is worked on, it explains faults there. */
const WINDOW = ["plannedStart", "plannedEnd"];

/** Ends with which what runs on the ticket is stopped. */
const TAKEN_AWAY = ["cancelled", "stopped"];

/** What only tickets have for which somebody waits. */
const WEIGHTS = ["impact", "urgency", "priority"];

const LEVELS = [
  { value: "1", label: "1 highest" },
  { value: "2", label: "2" },
  { value: "3", label: "3" },
  { value: "4", label: "4 lowest" },
];

/** What a person typed into a field, and what stood there when they began. */
interface Typed {
  value: string;
  before: string;
}

/** Changes fields of a ticket; only what the person changed is sent. Closing asks for cause, what was done and the answer. */
export function EditDialog({
  ticket,
  state,
  onClose,
}: {
  ticket: Ticket;
  /** The state it is to go to, where that is why it was opened. */
  state?: string;
  onClose: () => void;
}) {
  const { directory } = useNames();
  const [typed, setTyped] = useState<Record<string, Typed>>(
    (): Record<string, Typed> => (state ? { state: { value: state, before: ticket.state } } : {}),
  );
  const [all, setAll] = useState(false);
  const [reason, setReason] = useState("");
  const stands = (name: string) => textOf(ticket.fields[name]);
  const valueIn = (name: string) => typed[name]?.value ?? stands(name);
  const set = (name: string, value: string) =>
    setTyped({ ...typed, [name]: { value, before: typed[name]?.before ?? stands(name) } });
  const changed = Object.entries(typed).filter(([name, t]) => t.value !== stands(name));
  const meanwhile = changed.filter(([name, t]) => stands(name) !== t.before);
  const save = useSend(ticket.number, onClose);
  const submit = () => {
    const fields: Record<string, unknown> = {};
    for (const [name, { value }] of changed) {
      const field = directory?.fields.find((f) => f.name === name);
      fields[name] = meantBy(field, value) ?? null;
    }
    save.mutate({
      path: `/api/tickets/${ticket.number}`,
      put: true,
      body: { fields, ...(reason.trim() ? { reason } : {}) },
    });
  };
  const problem = save.error instanceof ProblemError ? save.error.problem : undefined;
  const closing = valueIn("state") === "closed";
  const cancelling = TAKEN_AWAY.includes(valueIn("state")) && !TAKEN_AWAY.includes(ticket.state);
  const ends = ["cause", "done", "answer"];
  const fields = (directory?.fields ?? []).filter(
    (f) =>
      (!ends.includes(f.name) || closing || ticket.fields[f.name] !== undefined) &&
      !(ticket.kind === "routine" && WEIGHTS.includes(f.name)),
  );
  // What an end asks for comes first; what few tickets have comes when somebody wants it.
  const usual = (f: Field) =>
    USUAL.has(f.name) ||
    valueIn(f.name) !== "" ||
    (closing && ends.includes(f.name)) ||
    (ticket.kind === "change" && WINDOW.includes(f.name));
  const shown = [
    ...(closing ? fields.filter((f) => f.name === "state" || ends.includes(f.name)) : []),
    ...fields.filter((f) => !closing || (f.name !== "state" && !ends.includes(f.name))),
  ].filter((f) => all || usual(f));
  const hidden = fields.filter((f) => !usual(f)).length;
  return (
    <Dialog title={`Change ${ticket.number}`} open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          submit();
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          {shown.map((f) => (
            <div key={f.name} className={f.type === "long text" || f.name === "title" ? "sm:col-span-2" : ""}>
              <One
                field={f}
                ticket={ticket}
                value={valueIn(f.name)}
                problem={
                  problem?.where === f.name
                    ? problem.detail
                    : meanwhile.some(([name]) => name === f.name)
                      ? `Meanwhile: “${stands(f.name)}”. Yours replaces it.`
                      : undefined
                }
                onChange={(v) => set(f.name, v)}
              />
            </div>
          ))}
        </div>
        {hidden > 0 && (
          <button type="button" className="link self-start text-sm" onClick={() => setAll(!all)}>
            {all ? "only what is usual" : `${hidden} more ${hidden === 1 ? "field" : "fields"}…`}
          </button>
        )}
        <Meanwhile ticket={ticket} typed={meanwhile} />
        {cancelling && <Cancels ticket={ticket} />}
        <Input
          label="Why (goes onto the record; a priority other than the computed one needs it)"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
        {save.isError && <Trouble error={save.error} />}
        <div>
          <Button look={cancelling ? "danger" : "primary"} type="submit" disabled={save.isPending}>
            {cancelling ? "Save, and cancel it" : "Save"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** What somebody else has changed since this person began to type, before theirs replaces it. */
function Meanwhile({ ticket, typed }: { ticket: Ticket; typed: [string, Typed][] }) {
  const names = useNames();
  if (typed.length === 0) return null;
  return (
    <section role="status" aria-label="Changed meanwhile" className="rounded-lg border border-soon bg-sheet px-3 py-2">
      <p>
        <strong className="text-soon">Changed meanwhile by somebody else:</strong>{" "}
        {typed
          .map(
            ([name]) => `${names.field(`ticket.${name}`) ?? name} is now “${String(ticket.fields[name] ?? "empty")}”`,
          )
          .join(", ")}
        . When you save, yours replaces it.
      </p>
    </section>
  );
}

/** What ends with the ticket, said before it does. */
function Cancels({ ticket }: { ticket: Ticket }) {
  const runs = ticket.runs.filter((r) => !r.endedAt);
  if (runs.length === 0) return null;
  const asked = ticket.asks.filter((a) => a.kind !== "machine" && a.kind !== "wait").map((a) => `“${a.name}”`);
  const off = runs.flatMap((r) => r.offForNow);
  return (
    <section aria-label="What ends with it" className="rounded-lg border border-soon bg-sheet px-3 py-2">
      <p>
        <strong className="text-soon">
          {ticket.kind === "routine" ? "Stopping" : "Cancelling"} ends{" "}
          {runs.length === 1 ? "its run" : `its ${runs.length} runs`}:
        </strong>{" "}
        {runs.map((r) => `“${r.name}”`).join(", ")}.
        {asked.length > 0 && ` Taken off desks: ${asked.join(", ")}. Whoever has one in hand is told.`}
      </p>
      <p className="mt-1 text-ink-2">
        {off.length > 0
          ? `Nothing is put back by itself. Still off afterwards: ${off.join(", ")}. To put it back, stop the run with “stop and put back” first.`
          : "What they changed outside stays as it is."}
      </p>
    </section>
  );
}

function One({
  field,
  ticket,
  value,
  problem,
  onChange,
}: {
  field: Field;
  ticket: Ticket;
  value: string;
  problem?: string;
  onChange: (v: string) => void;
}) {
  const pick = (options: { value: string; label: string }[]) => (
    <Select label={field.label} problem={problem} value={value} onChange={onChange} options={options} />
  );
  if (field.name === "state") return pick([ticket.state, ...ticket.moves].map((s) => ({ value: s, label: s })));
  if (field.name === "impact" || field.name === "urgency") return pick(LEVELS);
  if (field.name === "priority") return pick(["P1", "P2", "P3", "P4"].map((s) => ({ value: s, label: s })));
  // A field that may be empty here is asked for where it is needed.
  return (
    <FieldInput
      field={{ ...field, required: false }}
      problem={problem}
      value={meantBy(field, value)}
      onChange={(v) => onChange(textOf(v))}
    />
  );
}
