import { useState } from "react";
import { api } from "../../api/client";
import type { Action, Connection } from "../../api/types";
import { keyFor, SetUpDialog } from "../setup/saving";
import { ActionForm, PLACES } from "./ActionForm";

const NEW: Action = {
  key: "",
  name: "",
  description: "",
  connection: "",
  call: { method: "POST", path: "/", headers: undefined, body: undefined, poll: undefined },
  inputs: [],
  outputs: [],
  results: [],
  repeat: "never",
  changesWorld: true,
  timeLimit: "30 s",
  tries: 1,
  pause: "10 s",
};

/** Makes an action, or a variant of one under a name of its own; one that is there is changed on its page. */
export function ActionDialog({
  of,
  connections,
  taken,
  secrets,
  onClose,
  onMade,
}: {
  /** What it is to be a variant of; a new one from nothing where none is given. */
  of?: Action;
  connections: Connection[];
  taken: string[];
  secrets: string[] | null;
  onClose: () => void;
  onMade?: (key: string) => void;
}) {
  const [draft, setDraft] = useState<Action>(
    of ? { ...of, key: "", name: `${of.name}, our way` } : { ...NEW, connection: connections[0]?.key ?? "" },
  );
  const key = keyFor(draft.name);
  const clash = taken.includes(key);
  return (
    <SetUpDialog
      title={of ? `A variant of ${of.name}` : "A new action"}
      save={async () => {
        if (clash) throw new Error("taken");
        await api.put(`/api/actions/${key}`, { action: { ...draft, key } });
        onMade?.(key);
      }}
      stale={["automation"]}
      onClose={onClose}
      wide
      places={PLACES}
    >
      {(at) => (
        <ActionForm
          draft={draft}
          set={(change) => setDraft({ ...draft, ...change })}
          connections={connections}
          secrets={secrets}
          at={at}
          clash={clash}
        />
      )}
    </SetUpDialog>
  );
}
