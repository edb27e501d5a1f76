import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { TermsBody, TermsOfUse, TermsView } from "../../api/types";
import { Button, Input, Select, Trouble } from "../../ui/kit";
import { Several } from "../../ui/Several";
import { dayFar } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { SetUpDialog } from "../setup/saving";
import { Words } from "./Words";

/** Who answers for an action, who may use it and where; undefined while that is not known. */
export function useTerms(action: string) {
  return useQuery({
    queryKey: ["terms", action],
    queryFn: () => api.get<TermsView>(`/api/actions/${action}/terms`),
  });
}

type Names = Pick<ReturnType<typeof useNames>, "person" | "group" | "service">;

const either = (words: string[]) => words.join(" or ");

/** Terms as sentences. */
export function termsWords(terms: TermsOfUse, names: Names): string[] {
  const groups = (terms.groups ?? []).map(names.group);
  const where = [
    terms.services?.length ? `tickets about ${either(terms.services.map(names.service))}` : "",
    terms.sites?.length ? `tickets whose CI stands at ${either(terms.sites)}` : "",
  ].filter(Boolean);
  const times = terms.tellAfter === 1 ? "a call goes badly" : `${terms.tellAfter} calls in a row go badly`;
  return [
    terms.keeper ? `${names.person(terms.keeper)} keeps it.` : "Nobody keeps it: whoever designs may change it.",
    groups.length > 0
      ? `Workflows whose owner is in ${either(groups)} may use it; by hand, these people alone.`
      : "Every workflow may use it.",
    where.length > 0 ? `On ${where.join(", and ")} alone.` : "",
    terms.tellAfter ? `The keeper is told when ${times}.` : "",
  ].filter(Boolean);
}

/** Who answers for it, who may use it and where (M5). */
export function Terms({ action, name, may }: { action: string; name: string; may: boolean }) {
  const queries = useQueryClient();
  const names = useNames();
  const now = useNow();
  const [changing, setChanging] = useState(false);
  const view = useTerms(action);
  const renew = useMutation({
    mutationFn: () => api.post<TermsView>(`/api/actions/${action}/terms/renewal`),
    onSuccess: async (saved) => {
      queries.setQueryData(["terms", action], saved);
      await queries.invalidateQueries({ queryKey: ["kept-actions"] });
    },
  });
  if (view.isError) return <Trouble error={view.error} onRetry={() => view.refetch()} />;
  if (!view.data) return null;
  const { terms, renewBy, mayChange, canKeep } = view.data;
  const can = may && mayChange;
  const due = renewBy !== undefined && new Date(renewBy).getTime() < now + 14 * 86_400_000;
  return (
    <section aria-label="Who may use it">
      <div className="mb-1 flex items-baseline gap-2">
        <h2 className="font-bold">Who may use it</h2>
        {can && (
          <Button look="quiet" className="ml-auto" onClick={() => setChanging(true)}>
            Change…
          </Button>
        )}
      </div>
      {termsWords(terms, names).map((line) => (
        <p key={line} className="text-sm">
          {line}
        </p>
      ))}
      {renewBy && (
        <p className={`text-sm ${due ? "font-semibold text-soon" : ""}`}>
          To be looked at again by {dayFar(renewBy, now)}.
        </p>
      )}
      {can && due && (
        <Button className="mt-1" disabled={renew.isPending} onClick={() => renew.mutate()}>
          All of it is right still
        </Button>
      )}
      {renew.isError && <Trouble error={renew.error} />}
      {changing && (
        <TermsDialog action={action} name={name} terms={terms} canKeep={canKeep} onClose={() => setChanging(false)} />
      )}
    </section>
  );
}

const whole = (text: string) => (text.trim() === "" ? undefined : Number(text));

function TermsDialog({
  action,
  name,
  terms,
  canKeep,
  onClose,
}: {
  action: string;
  name: string;
  terms: TermsOfUse;
  canKeep: string[];
  onClose: () => void;
}) {
  const { directory, person } = useNames();
  const [body, setBody] = useState<TermsBody>({
    keeper: terms.keeper,
    groups: terms.groups ?? [],
    services: terms.services ?? [],
    sites: terms.sites ?? [],
    tellAfter: terms.tellAfter,
    renewMonths: terms.renewMonths,
  });
  const set = (change: Partial<TermsBody>) => setBody({ ...body, ...change });
  const kept = Boolean(body.keeper);
  return (
    <SetUpDialog
      title={`Who may use ${name}`}
      save={() =>
        api.put(`/api/actions/${action}/terms`, {
          ...body,
          tellAfter: kept ? body.tellAfter : undefined,
          renewMonths: kept ? body.renewMonths : undefined,
        })
      }
      stale={["terms", "automation", "kept-actions"]}
      onClose={onClose}
    >
      {(at) => (
        <>
          <p className="text-sm text-ink-2">
            Holds for all its versions, from now on. A step that it no longer lets waits and says why; what is under way
            goes on.
          </p>
          <Select
            label="Kept by"
            help="Answers for it, and alone changes it; administrators may too."
            value={body.keeper ?? ""}
            problem={at("keeper")}
            onChange={(keeper) => set({ keeper: keeper || undefined })}
            options={[{ value: "", label: "nobody" }, ...canKeep.map((id) => ({ value: id, label: person(id) }))]}
          />
          <Several
            label="Used by groups"
            help="A workflow may use it when its owner is in one of these."
            none="any"
            problem={at("groups")}
            values={body.groups ?? []}
            onChange={(groups) => set({ groups })}
            options={(directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name }))}
          />
          <Several
            label="On tickets about services"
            none="any"
            problem={at("services")}
            values={body.services ?? []}
            onChange={(services) => set({ services })}
            options={(directory?.services ?? []).map((s) => ({ value: s.id, label: s.name }))}
          />
          <Words
            label="On tickets whose CI stands at"
            problem={at("sites")}
            words={body.sites ?? []}
            onChange={(sites) => set({ sites })}
          />
          {kept && (
            <div className="grid grid-cols-2 gap-2">
              <Input
                label="Tell the keeper after bad calls in a row"
                type="number"
                min={1}
                max={100}
                placeholder="never"
                value={body.tellAfter ?? ""}
                onChange={(e) => set({ tellAfter: whole(e.target.value) })}
              />
              <Input
                label="Look at it again after months"
                type="number"
                min={1}
                max={36}
                placeholder="never"
                value={body.renewMonths ?? ""}
                onChange={(e) => set({ renewMonths: whole(e.target.value) })}
              />
            </div>
          )}
        </>
      )}
    </SetUpDialog>
  );
}
