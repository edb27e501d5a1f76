import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { SubscriptionBody, SubscriptionView } from "../../api/types";
import { Check } from "../../ui/Check";
import { Input, Select } from "../../ui/kit";
import { ConditionInput } from "../designer/ConditionInput";
import { keyFor, SetUpDialog } from "../setup/saving";
import { useSession } from "../signin/session";
import { kindWords } from "./words";

/** Kinds of entries that others ask for most. */
const USUAL = [
  "ticketRaised",
  "ticketChanged",
  "runStarted",
  "runEnded",
  "taskDone",
  "voted",
  "targetMissed",
  "clockReached",
  "stalled",
];

const TICKETS: SubscriptionBody["wanted"]["tickets"] = ["incident", "request", "change", "routine"];

/** Where events go, which ones, and what they carry. */
export function SubscriptionDialog({
  view,
  onClose,
  onMade,
}: {
  view?: SubscriptionView;
  onClose: () => void;
  onMade?: (key: string) => void;
}) {
  const names = useNames();
  const { session } = useSession();
  const known = useQuery({
    queryKey: ["event-kinds"],
    queryFn: () => api.get<{ kinds: string[] }>("/api/events/kinds"),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [draft, setDraft] = useState<SubscriptionBody>(() => {
    if (!view)
      return {
        name: "",
        on: true,
        address: "",
        wanted: { kinds: [], tickets: [] },
        fields: ["title", "state", "priority"],
        as: session.id,
      };
    const { key: _, ...body } = view.subscription;
    return body;
  });
  const [all, setAll] = useState(() => draft.wanted.kinds.some((k) => !USUAL.includes(k)));
  const set = (change: Partial<SubscriptionBody>) => setDraft({ ...draft, ...change });
  const want = (change: Partial<SubscriptionBody["wanted"]>) => set({ wanted: { ...draft.wanted, ...change } });
  const toggled = <T extends string>(list: T[], one: T, on: boolean) =>
    on ? [...list, one] : list.filter((x) => x !== one);
  const key = view?.subscription.key ?? keyFor(draft.name);
  const kinds = (known.data?.kinds ?? []).filter((k) => all || USUAL.includes(k));
  return (
    <SetUpDialog
      title={view ? `Change “${view.subscription.name}”` : "A new subscription"}
      verb={view ? "Save" : "Make it"}
      wide
      save={async () => {
        await api.put(`/api/subscriptions/${key}`, draft);
        onMade?.(key);
      }}
      stale={["subscriptions", "subscription"]}
      onClose={onClose}
    >
      {(at) => (
        <div className="grid gap-3 sm:grid-cols-2">
          <Input
            label="Name"
            required
            autoFocus
            value={draft.name}
            problem={at("name")}
            onChange={(e) => set({ name: e.target.value })}
          />
          <Input
            label="Address that events are posted to"
            required
            type="url"
            placeholder="https://"
            value={draft.address}
            problem={at("address")}
            onChange={(e) => set({ address: e.target.value })}
          />
          <fieldset className="flex flex-wrap gap-x-4 gap-y-1 sm:col-span-2">
            <legend className="mb-1 text-sm font-semibold text-ink-2">Of these tickets (none: of all)</legend>
            {TICKETS.map((t) => (
              <Check
                key={t}
                label={t}
                checked={draft.wanted.tickets.includes(t)}
                onChange={(on) => want({ tickets: toggled(draft.wanted.tickets, t, on) })}
              />
            ))}
          </fieldset>
          <fieldset className="sm:col-span-2">
            <legend className="mb-1 text-sm font-semibold text-ink-2">These entries (none: all of them)</legend>
            <div className="grid max-h-48 gap-x-4 gap-y-1 overflow-auto sm:grid-cols-3">
              {kinds.map((k) => (
                <Check
                  key={k}
                  label={kindWords(k)}
                  checked={draft.wanted.kinds.includes(k)}
                  onChange={(on) => want({ kinds: toggled(draft.wanted.kinds, k, on) })}
                />
              ))}
            </div>
            <button type="button" className="link mt-1 text-xs" onClick={() => setAll(!all)}>
              {all ? "show the usual ones" : "show all kinds of entries"}
            </button>
          </fieldset>
          <div className="sm:col-span-2">
            <ConditionInput
              label="Only if the ticket now is so"
              value={draft.wanted.condition ?? ""}
              onChange={(c) => want({ condition: c || undefined })}
            />
          </div>
          <fieldset className="sm:col-span-2">
            <legend className="mb-1 text-sm font-semibold text-ink-2">Each event carries of the ticket</legend>
            <div className="grid max-h-40 gap-x-4 gap-y-1 overflow-auto sm:grid-cols-3">
              {(names.directory?.fields ?? []).map((f) => (
                <Check
                  key={f.name}
                  label={f.label}
                  checked={draft.fields.includes(f.name)}
                  onChange={(on) => set({ fields: toggled(draft.fields, f.name, on) })}
                />
              ))}
            </div>
          </fieldset>
          <Select
            label="With the rights of"
            value={draft.as}
            problem={at("as")}
            options={(names.directory?.people ?? [])
              .filter((p) => p.active)
              .map((p) => ({ value: p.id, label: p.name }))}
            onChange={(as) => set({ as })}
          />
          <Check label="It is told" checked={draft.on} onChange={(on) => set({ on })} />
        </div>
      )}
    </SetUpDialog>
  );
}
