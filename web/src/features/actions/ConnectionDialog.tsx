import { useState } from "react";
import { api } from "../../api/client";
import type { Connection } from "../../api/types";
import { Input, Select, TextArea } from "../../ui/kit";
import { keyFor, SetUpDialog } from "../setup/saving";
import { addressHelp, isInZone, kindOf, protocolOf } from "./protocols";
import { type SignIn, SignInForm } from "./SignInForm";

/** Makes a connection to an outside system or changes one. */
export function ConnectionDialog({
  connection,
  secrets,
  onClose,
  onMade,
}: {
  connection?: Connection;
  secrets: string[];
  onClose: () => void;
  onMade?: (key: string) => void;
}) {
  const [name, setName] = useState(connection?.name ?? "");
  const [base, setBase] = useState(connection?.base ?? "");
  const [secret, setSecret] = useState(connection?.secret ?? "");
  const [signIn, setSignIn] = useState<SignIn>(connection?.signIn ?? { is: "bearer" });
  const [hosts, setHosts] = useState((connection?.allowedHosts ?? []).join("\n"));
  const key = connection?.key ?? keyFor(name);
  const says = secret !== "" && !isInZone(base) && kindOf(base) === "HTTP";
  return (
    <SetUpDialog
      title={connection ? connection.name : "A new connection"}
      save={async () => {
        await api.put(`/api/connections/${key}`, {
          key,
          name,
          base,
          allowedHosts: isInZone(base) ? [] : hosts.split(/\s+/).filter(Boolean),
          ...(secret && !isInZone(base) && { secret }),
          // As a bearer token is what it means to say nothing.
          ...(says && signIn.is !== "bearer" && { signIn }),
        });
        onMade?.(key);
      }}
      stale={["automation", "secrets"]}
      onClose={onClose}
    >
      {(at) => (
        <>
          <Input
            label="Name"
            required
            autoFocus
            value={name}
            problem={at("name")}
            onChange={(e) => setName(e.target.value)}
          />
          <Input
            label="Address"
            required
            value={base}
            problem={at("base")}
            onChange={(e) => setBase(e.target.value)}
            placeholder="https://lanes.kestrel.example"
            help={addressHelp(base)}
          />
          {!isInZone(base) && (
            <Select
              label="Signs in with the secret"
              value={secret}
              problem={at("secret")}
              onChange={(picked) => setSecret(picked)}
              options={[{ value: "", label: "none" }, ...secrets.map((s) => ({ value: s, label: s }))]}
              help={`${protocolOf(base).secret} Its value is never shown.`}
            />
          )}
          {says && <SignInForm value={signIn} onChange={setSignIn} at={at} />}
          {!isInZone(base) && (
            <TextArea
              label="Further hosts that may be reached, one a line"
              rows={2}
              className="font-mono text-xs"
              value={hosts}
              problem={at("allowedHosts")}
              onChange={(e) => setHosts(e.target.value)}
              placeholder="jobs.kestrel.example:8443"
            />
          )}
          {isInZone(base) && (
            <p className="text-sm text-ink-2">
              How it is signed in to, and which hosts are reached, the file of the zone's relays says; secrets stay
              there.
            </p>
          )}
        </>
      )}
    </SetUpDialog>
  );
}
