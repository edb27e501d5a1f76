import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError } from "../../api/client";
import { useCatalogue, useNames } from "../../api/hooks";
import type { PartnerBody, PartnerLook, PartnerView } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Input, Select, Trouble } from "../../ui/kit";
import { SpanInput } from "../designer/SpanInput";
import { OneLook } from "./OneLook";
import { Fields } from "./SharedFields";

type Places = PartnerBody["places"];

const PLACES: { name: keyof Places; label: string; needed?: boolean }[] = [
  { name: "id", label: "Its number", needed: true },
  { name: "title", label: "Title", needed: true },
  { name: "text", label: "What is the matter" },
  { name: "link", label: "Where it is read" },
  { name: "reference", label: "Our number, in what we raised" },
  { name: "ci", label: "The CI it is about" },
  { name: "changed", label: "When it was last changed" },
  { name: "comments", label: "What was said on it (a list)" },
];

const IN_COMMENTS: { name: keyof Places; label: string; needed?: boolean }[] = [
  { name: "commentId", label: "Its id", needed: true },
  { name: "commentBy", label: "Who said it" },
  { name: "commentText", label: "What was said", needed: true },
  { name: "commentReference", label: "Our mark, where it was we" },
];

/** Which actions speak to the desk, where things stand in its tickets, and what both share; tried before it counts. */
export function HowJoined({ view, may }: { view: PartnerView; may: boolean }) {
  const names = useNames();
  const queries = useQueryClient();
  const [draft, setDraft] = useState<PartnerBody>(() => {
    const { key: _, ...partner } = view.partner;
    return { ...partner, otherwise: view.otherwise, group: view.group };
  });
  const set = (change: Partial<PartnerBody>) => setDraft({ ...draft, ...change });
  const place = (name: keyof Places, value: string) =>
    set({ places: { ...draft.places, [name]: value === "" ? undefined : value } });
  const key = view.partner.key;
  const all = useCatalogue().data?.actions ?? [];
  const reading = all.filter((a) => !a.changesWorld && a.repeat === "free");
  const changing = all.filter((a) => a.repeat !== "never");
  const save = useMutation({
    mutationFn: () => api.put<PartnerView>(`/api/partners/${key}`, draft),
    onSuccess: (saved) => {
      queries.setQueryData(["partner", key], saved);
      queries.invalidateQueries({ queryKey: ["partners"] });
      queries.invalidateQueries({ queryKey: ["directory"] });
    },
  });
  const look = useMutation({ mutationFn: () => api.post<PartnerLook>(`/api/partners/${key}/looks`, draft) });
  const problem = save.error instanceof ProblemError ? save.error.problem : undefined;
  const at = (field: string) => (problem?.where === field ? problem.detail : undefined);
  const action = (
    field: "list" | "raise" | "change" | "comment" | "read",
    label: string,
    of: typeof all,
    none?: string,
  ) => (
    <Select
      label={label}
      value={draft[field] ?? ""}
      placeholder="an action…"
      problem={at(field)}
      options={[...(none ? [{ value: "", label: none }] : []), ...of.map((a) => ({ value: a.key, label: a.name }))]}
      onChange={(v) => set({ [field]: v || undefined })}
    />
  );
  const sample = look.data?.tickets[0]?.raw;
  return (
    <fieldset disabled={!may} className="max-w-5xl">
      <form
        className="flex flex-col gap-6"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <section aria-label="How it is spoken to" className="grid gap-3 sm:grid-cols-2">
          <h2 className="font-bold sm:col-span-2">How it is spoken to</h2>
          <Input
            label="Name"
            required
            value={draft.name}
            problem={at("name")}
            onChange={(e) => set({ name: e.target.value })}
          />
          <SpanInput
            label="It is looked at every"
            value={draft.every}
            onChange={(every) => set({ every: every ?? "15 s" })}
          />
          {action("list", "Its tickets are listed by", reading)}
          {action("raise", "Our workflows raise tickets there by", changing, "nothing: ours are not raised there")}
          {action("change", "Its tickets are changed by", changing, "nothing: they are only read")}
          {action("comment", "Something is said there by", changing, "nothing: nothing is said there")}
          {action("read", "One of its tickets is read by", reading, "nothing: nobody notices that one is gone there")}
          <Select
            label="A ticket of theirs that no trigger takes up"
            value={draft.otherwise}
            options={[
              { value: "incident", label: "opens an incident" },
              { value: "kept", label: "is kept here and under Signals" },
            ]}
            onChange={(v) => set({ otherwise: v as PartnerBody["otherwise"] })}
          />
          <Select
            label="Group that gets the incident"
            value={draft.group ?? ""}
            problem={at("group")}
            options={[
              { value: "", label: "nobody in particular" },
              ...(names.directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })),
            ]}
            onChange={(group) => set({ group: group || undefined })}
          />
          <Check label="It is looked at" checked={draft.on} onChange={(on) => set({ on })} />
        </section>
        <section aria-label="One look">
          <Button disabled={look.isPending || !may} onClick={() => look.mutate()}>
            {look.isPending ? "It looks…" : "Look once, without any effect"}
          </Button>
          {look.isError && <Trouble error={look.error} />}
          {look.data && <OneLook look={look.data} />}
        </section>
        <section aria-label="Where things stand in its tickets" className="grid gap-3 sm:grid-cols-2">
          <h2 className="font-bold sm:col-span-2">Where things stand in its tickets</h2>
          <p className="text-sm text-ink-2 sm:col-span-2">
            Each place begins with a stroke, such as /fault/head. After one look, the places of a ticket of theirs are
            offered.
          </p>
          {PLACES.map((p) => (
            <PlaceInput
              key={p.name}
              label={p.label}
              needed={p.needed}
              sample={sample}
              value={draft.places[p.name] ?? ""}
              onChange={(v) => place(p.name, v)}
            />
          ))}
          {draft.places.ci && (
            <Input
              label="Our CI is found by (empty: its id)"
              value={draft.ciBy ?? ""}
              onChange={(e) => set({ ciBy: e.target.value || undefined })}
            />
          )}
          {draft.places.comments && (
            <>
              <p className="text-sm font-semibold text-ink-2 sm:col-span-2">In each of what was said</p>
              {IN_COMMENTS.map((p) => (
                <PlaceInput
                  key={p.name}
                  label={p.label}
                  needed={p.needed}
                  value={draft.places[p.name] ?? ""}
                  onChange={(v) => place(p.name, v)}
                />
              ))}
            </>
          )}
        </section>
        <Fields
          draft={draft}
          inputs={all.find((a) => a.key === draft.change)?.inputs.map((i) => i.name) ?? []}
          sample={sample}
          onChange={set}
        />
        {at("shared") && (
          <p role="alert" className="text-sm text-late">
            {at("shared")}
          </p>
        )}
        {save.isError &&
          !["name", "list", "raise", "change", "comment", "read", "group", "shared"].includes(problem?.where ?? "") && (
            <Trouble error={save.error} />
          )}
        {may && (
          <div className="flex items-center gap-3">
            <Button look="primary" type="submit" disabled={save.isPending}>
              Save
            </Button>
            {save.isSuccess && (
              <span role="status" className="text-sm text-well">
                Saved. It counts from the next look on.
              </span>
            )}
          </div>
        )}
      </form>
    </fieldset>
  );
}

/** A place in one of their tickets; those of a ticket that was read are offered. */
export function PlaceInput({
  label,
  hideLabel,
  value,
  needed,
  sample,
  onChange,
}: {
  label: string;
  hideLabel?: boolean;
  value: string;
  needed?: boolean;
  sample?: string;
  onChange: (value: string) => void;
}) {
  return (
    <Input
      label={label}
      hideLabel={hideLabel}
      className="font-mono"
      required={needed}
      pattern="/.*"
      title="It begins with '/', such as /fault/state."
      list={sample ? "partner-places" : undefined}
      value={value}
      onChange={(e) => onChange(e.target.value.trim())}
    />
  );
}
