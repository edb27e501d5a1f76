import { useState } from "react";
import { api } from "../../api/client";
import { Input } from "../../ui/kit";
import { SetUpDialog } from "./saving";

/** Sets a secret, or gives one a new value. What is typed is sent once and never shown again. */
export function SecretDialog({ secret, onClose }: { secret?: string; onClose: () => void }) {
  const [name, setName] = useState(secret ?? "");
  const [value, setValue] = useState("");
  return (
    <SetUpDialog
      title={secret ? `A new value for ${secret}` : "A new secret"}
      verb={secret ? "Give it this value" : "Keep it"}
      save={() => api.put(`/api/secrets/${encodeURIComponent(name)}`, { value })}
      stale={["secrets", "automation"]}
      onClose={onClose}
    >
      {(at) => (
        <>
          {!secret && (
            <Input
              label="Name"
              required
              autoFocus
              value={name}
              problem={at("name")}
              onChange={(e) => setName(e.target.value)}
              help="Connections name it. Letters, digits, dots, dashes and underscores."
            />
          )}
          <Input
            label="Value"
            type="password"
            autoComplete="off"
            required
            autoFocus={!!secret}
            value={value}
            problem={at("value")}
            onChange={(e) => setValue(e.target.value)}
            help={
              secret
                ? "The next call uses it. The value of before is gone then."
                : "A token, a password or a key. It is kept encrypted, and nobody sees it again."
            }
          />
        </>
      )}
    </SetUpDialog>
  );
}
