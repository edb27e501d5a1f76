import { useState } from "react";
import { api } from "../../api/client";
import type { Connection } from "../../api/types";
import { TextArea } from "../../ui/kit";
import { SetUpDialog } from "../setup/saving";

/** Holds the calls over a connection back, or lets them out again. */
export function HoldDialog({
  connection,
  held,
  onClose,
}: {
  connection: Connection;
  /** Whether they wait now. */
  held: boolean;
  onClose: () => void;
}) {
  const [why, setWhy] = useState("");
  return (
    <SetUpDialog
      title={held ? `Let calls over ${connection.name} out` : `Hold calls over ${connection.name} back`}
      verb={held ? "Let them out" : "Hold them back"}
      save={() => api.put(`/api/connections/${connection.key}/calls`, { held: !held, why })}
      stale={["automation"]}
      onClose={onClose}
    >
      {(at) => (
        <>
          <p className="text-ink-2">
            {held
              ? "What waits goes out at once. If nobody answers there, they are held back again."
              : "Calls that have not begun wait, each as long as its step may last; then it has failed. What is under way goes on."}
          </p>
          <TextArea
            label="Why"
            help="Whoever waits for a call reads it; it goes into the journal."
            required
            autoFocus
            value={why}
            problem={at("why")}
            onChange={(e) => setWhy(e.target.value)}
          />
        </>
      )}
    </SetUpDialog>
  );
}
