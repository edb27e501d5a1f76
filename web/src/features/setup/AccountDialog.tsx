import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { People, Session } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Input, Select } from "../../ui/kit";
import { useSession } from "../signin/session";
import { keyFor, SetUpDialog } from "./saving";

type Account = People["people"][number];
type Role = Account["roles"][number];

const ROLES: { role: Role; may: string }[] = [
  { role: "requester", may: "asks for things and sees their own tickets" },
  { role: "agent", may: "works on tickets, tasks and decisions" },
  { role: "process owner", may: "designs workflows, groups, services, rotas" },
  { role: "auditor", may: "reads everything, changes nothing" },
  { role: "administrator", may: "sets up everything, accounts too" },
];

/** Makes an account, or changes one: what it may do, where it belongs, whether it is open. */
export function AccountDialog({ account, onClose }: { account?: Account; onClose: () => void }) {
  const { session } = useSession();
  const { directory } = useNames();
  const [name, setName] = useState(account?.name ?? "");
  const [id, setId] = useState(account?.id);
  const [mail, setMail] = useState(account?.mail ?? "");
  const [roles, setRoles] = useState<Role[]>(account?.roles ?? ["agent"]);
  const [active, setActive] = useState(account?.active ?? true);
  const [manager, setManager] = useState(account?.manager ?? "");
  const [groups, setGroups] = useState<string[]>((account?.groups ?? []) as string[]);
  const [password, setPassword] = useState("");
  const key = id ?? keyFor(name);
  const save = async () => {
    await api.put(`/api/people/${key}`, { name, mail, roles, active, groups, ...(manager && { manager }) });
    if (password) await api.put(`/api/people/${key}/password`, { password });
  };
  const seeAs = async () => {
    await api.post<Session>("/api/session/see-as", { person: key });
    window.location.assign("/desk");
  };
  const toggle = <T,>(list: T[], value: T, on: boolean) => (on ? [...list, value] : list.filter((x) => x !== value));
  return (
    <SetUpDialog title={account ? account.name : "A new account"} save={save} stale={["people"]} onClose={onClose} wide>
      {(at) => (
        <>
          <div className="grid gap-3 sm:grid-cols-2">
            <Input
              label="Name"
              required
              autoFocus={!account}
              value={name}
              problem={at("name")}
              onChange={(e) => setName(e.target.value)}
            />
            <Input
              label="Short name"
              required
              disabled={account !== undefined}
              value={key}
              onChange={(e) => setId(e.target.value)}
              help={account ? "It stands on records, so it stays." : "It stands on records and is never changed."}
            />
            <Input
              label="Mail"
              type="email"
              value={mail}
              problem={at("mail")}
              onChange={(e) => setMail(e.target.value)}
            />
            <Select
              label="Manager, who decides about what they ask for"
              value={manager}
              problem={at("manager")}
              onChange={(picked) => setManager(picked)}
              options={[
                { value: "", label: "nobody named" },
                ...(directory?.people ?? [])
                  .filter((p) => p.active && p.id !== key)
                  .map((p) => ({ value: p.id, label: p.name })),
              ]}
            />
          </div>
          <fieldset>
            <legend className="mb-1 text-sm font-semibold text-ink-2">May</legend>
            {ROLES.map((r) => (
              <Check
                key={r.role}
                label={`${r.role}: ${r.may}`}
                checked={roles.includes(r.role)}
                onChange={(picked) => setRoles(toggle(roles, r.role, picked))}
              />
            ))}
            {at("roles") && (
              <p role="alert" className="mt-1 text-xs text-late">
                {at("roles")}
              </p>
            )}
          </fieldset>
          <fieldset>
            <legend className="mb-1 text-sm font-semibold text-ink-2">In groups</legend>
            <div className="grid gap-x-4 sm:grid-cols-3">
              {(directory?.groups ?? []).map((g) => (
                <Check
                  key={g.id}
                  label={g.name}
                  checked={groups.includes(g.id)}
                  onChange={(picked) => setGroups(toggle(groups, g.id, picked))}
                />
              ))}
            </div>
          </fieldset>
          <Input
            label={account ? "A new password" : "Password to begin with"}
            type="password"
            autoComplete="new-password"
            value={password}
            problem={at("password")}
            onChange={(e) => setPassword(e.target.value)}
            help={
              account
                ? "Leave it blank to keep the present one. A new one ends all their sign-ins."
                : "At least 10 characters. They can change it themselves."
            }
          />
          <Check
            label="Open: may sign in, is asked and told"
            checked={active}
            onChange={(picked) => setActive(picked)}
          />
          {account?.active && account.id !== session.id && (
            <div className="flex items-center gap-3 border-t border-hairline pt-3">
              <Button onClick={seeAs}>See Dastur as {account.name}</Button>
              <span className="text-xs text-ink-2">
                Nothing can be changed meanwhile, and it stands on the journal.
              </span>
            </div>
          )}
        </>
      )}
    </SetUpDialog>
  );
}
