import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { Ask } from "../../api/types";
import { useKeys } from "../../ui/keys";
import { Button, Select, TextArea, Trouble } from "../../ui/kit";
import { useSession } from "../signin/session";
import { Frame } from "./AskFrame";
import { FormFields } from "./FormFields";
import { useGiven } from "./takeBack";
import { useFormDraft } from "./useFormDraft";
import { useSend } from "./useSend";
import { assignedWords } from "./words";

/** A task with its outcomes as buttons; claimed, handed back, passed on or left out. */
export function TaskCard({ ask, ticket, keys }: { ask: Ask; ticket: string; keys: boolean }) {
  const { session } = useSession();
  const names = useNames();
  const act = useSend(ticket);
  const { give } = useGiven();
  const task = ask.task;
  const [form, setForm, saved] = useFormDraft(ask.visit, task?.draft ?? {});
  const outcomes = task?.outcomes ?? [];
  const others = task?.claimedBy !== undefined && task.claimedBy !== session.id && task.claimedBy !== ask.coverFor;
  const [stepsIn, setStepsIn] = useState(false);
  const acts = ask.mine && (!ask.overseeing || stepsIn);
  const may = acts && !others && !act.isPending;
  const complete = (outcome: string) =>
    act.mutate(
      { path: `/api/tasks/${ask.visit}/complete`, body: { outcome, form } },
      {
        onSuccess: () => give({ visit: ask.visit, ticket, task: ask.name, outcome }),
      },
    );
  useKeys(
    keys && may
      ? Object.fromEntries([
          ...outcomes.map((o, i) => [String(i + 1), () => complete(o)]),
          ["c", () => !task?.claimedBy && act.mutate({ path: `/api/tasks/${ask.visit}/claim` })],
        ])
      : {},
  );
  if (!task) return null;
  return (
    <Frame ask={ask} calm={!acts}>
      {ask.overseeing && (
        <p className="mb-2 text-ink-2">
          You oversee this. It is offered to {assignedWords(task.to, names)}
          {task.claimedBy ? `, and ${names.person(task.claimedBy)} is on it` : ""}.
          {stepsIn && " What you do now goes onto the record as done by the overseer."}
        </p>
      )}
      {acts && task.form.length > 0 && (
        <div className="mb-3 max-w-xl">
          <FormFields fields={task.form} values={form} onChange={setForm} />
          <p role="status" className="mt-1 text-xs text-ink-2">
            {saved === "saving"
              ? "keeping what you typed…"
              : saved === "failed"
                ? "What you typed is kept in this browser only: the server does not answer."
                : Object.keys(form).length > 0
                  ? "Kept for you, on every device, until you give an outcome."
                  : ""}
          </p>
        </div>
      )}
      {ask.overseeing && !stepsIn ? (
        <Button onClick={() => setStepsIn(true)}>Step in as overseer…</Button>
      ) : ask.mine ? (
        <div className="flex flex-wrap items-center gap-2 max-md:sticky max-md:bottom-0 max-md:-mx-4 max-md:border-t max-md:border-selected-edge max-md:bg-inherit max-md:px-4 max-md:py-2">
          {outcomes.map((o, i) => (
            <Button
              key={o}
              look={i === 0 ? "primary" : "plain"}
              digit={i + 1}
              disabled={!may}
              onClick={() => complete(o)}
            >
              {o}
            </Button>
          ))}
          {task.mayLeaveOut && (
            <LeaveOut
              onLeave={(reason) => act.mutate({ path: `/api/tasks/${ask.visit}/leave-out`, body: { reason } })}
            />
          )}
          {!task.claimedBy && !ask.heldSince && (
            <button
              type="button"
              className="link ml-2"
              onClick={() => act.mutate({ path: `/api/tasks/${ask.visit}/claim` })}
            >
              claim
            </button>
          )}
          {task.claimedBy === session.id && !ask.heldSince && (
            <button
              type="button"
              className="link ml-2"
              onClick={() => act.mutate({ path: `/api/tasks/${ask.visit}/handback` })}
            >
              hand back
            </button>
          )}
          {!others && !ask.heldSince && (
            <>
              <PassOn
                names={names}
                opener="pass on…"
                shortcut={keys && may ? "p" : undefined}
                label="Pass it on to"
                verb="Pass it on"
                onSend={({ text, ...to }) =>
                  act.mutate({ path: `/api/tasks/${ask.visit}/pass-on`, body: { ...to, reason: text } })
                }
              />
              <PassOn
                names={names}
                opener="ask for help…"
                label="Who could help"
                verb="Ask them"
                onSend={(body) => act.mutate({ path: `/api/tasks/${ask.visit}/help`, body })}
              />
            </>
          )}
          {others && (
            <span className="text-ink-2">
              {names.person(task.claimedBy)} is on it. Ask them to hand it back if you should do it.
            </span>
          )}
        </div>
      ) : (
        <p className="text-ink-2">This is not offered to you.</p>
      )}
      {act.isError && (
        <div className="mt-3">
          <Trouble error={act.error} />
        </div>
      )}
    </Frame>
  );
}

/** Names a group or a person, with the reason: to pass a task on, or to ask for help with it. */
function PassOn({
  onSend,
  names,
  opener,
  label,
  verb,
  shortcut,
}: {
  onSend: (body: { group?: string; person?: string; text: string }) => void;
  names: ReturnType<typeof useNames>;
  opener: string;
  label: string;
  verb: string;
  shortcut?: string;
}) {
  const [open, setOpen] = useState(false);
  useKeys(shortcut ? { [shortcut]: () => setOpen(true) } : {});
  const [to, setTo] = useState("");
  const [reason, setReason] = useState("");
  if (!open)
    return (
      <button type="button" className="link ml-2" onClick={() => setOpen(true)}>
        {opener}
      </button>
    );
  const groups = (names.directory?.groups ?? []).filter((g) => g.members.length > 0);
  const people = (names.directory?.people ?? []).filter((p) => p.active);
  return (
    <form
      className="flex w-full max-w-xl flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        const [kind, id] = [to.slice(0, 1), to.slice(2)];
        onSend({ ...(kind === "g" ? { group: id } : { person: id }), text: reason });
        setOpen(false);
      }}
    >
      <Select
        label={label}
        required
        value={to}
        onChange={(picked) => setTo(picked)}
        options={[
          { value: "", label: "choose…" },
          ...groups.map((g) => ({ value: `g:${g.id}`, label: `${g.name} (${g.members.length})` })),
          ...people.map((p) => ({ value: `p:${p.id}`, label: p.name })),
        ]}
      />
      <TextArea
        label="Why"
        help="Goes onto the record and to them."
        required
        rows={2}
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      <div className="flex gap-2">
        <Button type="submit">{verb}</Button>
        <Button look="quiet" onClick={() => setOpen(false)}>
          Back
        </Button>
      </div>
    </form>
  );
}

function LeaveOut({ onLeave }: { onLeave: (reason: string) => void }) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  if (!open)
    return (
      <Button look="quiet" onClick={() => setOpen(true)}>
        Leave it out…
      </Button>
    );
  return (
    <form
      className="flex w-full max-w-xl flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        onLeave(reason);
      }}
    >
      <TextArea
        label="Why it is left out"
        help="Goes onto the record."
        required
        autoFocus
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      <div className="flex gap-2">
        <Button type="submit">Leave it out</Button>
        <Button look="quiet" onClick={() => setOpen(false)}>
          Back
        </Button>
      </div>
    </form>
  );
}
