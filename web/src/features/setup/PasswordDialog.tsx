import { useState } from "react";
import { api } from "../../api/client";
import { Input } from "../../ui/kit";
import { SetUpDialog } from "./saving";

/** Changes one's own password; every sign-in ends, this one too. */
export function PasswordDialog({ onClose }: { onClose: () => void }) {
  const [current, setCurrent] = useState("");
  const [password, setPassword] = useState("");
  return (
    <SetUpDialog
      title="Change my password"
      save={async () => {
        await api.put("/api/me/password", { current, password });
        window.location.assign("/");
      }}
      stale={[]}
      onClose={onClose}
      verb="Change it and sign in anew"
    >
      {(at) => (
        <>
          <Input
            label="Present password"
            type="password"
            autoComplete="current-password"
            autoFocus
            value={current}
            problem={at("current")}
            onChange={(e) => setCurrent(e.target.value)}
          />
          <Input
            label="New password"
            type="password"
            required
            minLength={10}
            autoComplete="new-password"
            value={password}
            problem={at("password")}
            onChange={(e) => setPassword(e.target.value)}
            help="At least 10 characters."
          />
        </>
      )}
    </SetUpDialog>
  );
}
