import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { OwnFields } from "../../api/types";
import { Dialog, Input, Loading, Trouble } from "../../ui/kit";
import { FormEditor } from "../designer/FormEditor";
import { SetUpDialog } from "./saving";

/** The fields that tickets and CIs have of their own, and which kinds of CI have them (M17). */
export function FieldsDialog({ onClose }: { onClose: () => void }) {
  const fields = useQuery({ queryKey: ["own-fields"], queryFn: () => api.get<OwnFields>("/api/fields"), gcTime: 0 });
  if (fields.data) return <Declared was={fields.data} onClose={onClose} />;
  return (
    <Dialog title="Fields of tickets and CIs" open onClose={onClose} wide>
      {fields.error ? <Trouble error={fields.error} onRetry={() => fields.refetch()} /> : <Loading what="the fields" />}
    </Dialog>
  );
}

function Declared({ was, onClose }: { was: OwnFields; onClose: () => void }) {
  const [ticket, setTicket] = useState(was.ticket);
  const [ci, setCi] = useState(was.ci);
  const [kinds, setKinds] = useState<Record<string, string>>(
    Object.fromEntries(Object.entries(was.kinds).map(([name, of]) => [name, of.join(", ")])),
  );
  const save = () =>
    api.put("/api/fields", {
      ticket,
      ci,
      kinds: Object.fromEntries(
        ci.map((f): [string, string[]] => [f.name, kindsOf(kinds[f.name])]).filter(([, of]) => of.length > 0),
      ),
      was,
    });
  return (
    <SetUpDialog title="Fields of tickets and CIs" save={save} stale={["own-fields", "ci"]} onClose={onClose} wide>
      {(at) => (
        <>
          <p className="text-sm text-ink-2">
            A field stays once it is saved, and so does its type: workflows and records rest on it. What it is called
            may change.
          </p>
          <FormEditor
            title="Fields of tickets"
            fields={ticket}
            prefix="ticket."
            stays={was.ticket.map((f) => f.name)}
            needs={false}
            add="Add a field of tickets"
            onChange={setTicket}
          />
          {at("ticket") && <Said words={at("ticket")} />}
          <FormEditor
            title="Attributes of CIs"
            says="A CI that lacks a needed one is incomplete; it is not refused."
            fields={ci}
            prefix="ci."
            stays={was.ci.map((f) => f.name)}
            add="Add an attribute of CIs"
            onChange={setCi}
          />
          {at("ci") && <Said words={at("ci")} />}
          {ci.length > 0 && (
            <fieldset>
              <legend className="mb-1 text-sm font-semibold text-ink-2">Which kinds of CI have them</legend>
              <div className="grid gap-2 sm:grid-cols-3">
                {ci.map((f) => (
                  <Input
                    key={f.name}
                    label={`Kinds that have “${f.label}”`}
                    placeholder="all kinds"
                    value={kinds[f.name] ?? ""}
                    onChange={(e) => setKinds({ ...kinds, [f.name]: e.target.value })}
                  />
                ))}
              </div>
              {at("kinds") && <Said words={at("kinds")} />}
            </fieldset>
          )}
        </>
      )}
    </SetUpDialog>
  );
}

/** Kinds as they are typed, with commas between. */
export function kindsOf(typed: string | undefined): string[] {
  return [
    ...new Set(
      (typed ?? "")
        .split(",")
        .map((k) => k.trim())
        .filter(Boolean),
    ),
  ];
}

function Said({ words }: { words: string | undefined }) {
  return (
    <p role="alert" className="text-sm text-late">
      {words}
    </p>
  );
}
