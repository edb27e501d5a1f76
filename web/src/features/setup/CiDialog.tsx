import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Ci } from "../../api/types";
import { Button, Input, Select } from "../../ui/kit";
import { FieldInput, type FieldValue } from "../ticket/FieldInput";
import { attributesOf, LIVES } from "./attributes";
import { SetUpDialog } from "./saving";

/** Makes a CI or changes one: its facts, and what leads from it to other CIs. */
export function CiDialog({
  page,
  onClose,
  onSaved,
}: {
  page?: Ci;
  onClose: () => void;
  onSaved?: (id: string) => void;
}) {
  const { directory } = useNames();
  const ci = page?.ci;
  const [id, setId] = useState(ci?.id ?? "");
  const [facts, setFacts] = useState<Record<string, string>>({
    name: ci?.name ?? "",
    kind: ci?.kind ?? "",
    service: ci?.service ?? "",
    site: ci?.site ?? "",
    address: ci?.address ?? "",
    owner: ci?.owner ?? "",
    life: ci?.life ?? "planned",
  });
  const [attributes, setAttributes] = useState<Record<string, unknown>>(ci?.attributes ?? {});
  const [relations, setRelations] = useState(
    (page?.relations ?? []).filter((r) => r.outgoing).map((r) => ({ relation: r.relation, to: r.ci })),
  );
  const set = (name: string, value: string) => setFacts({ ...facts, [name]: value });
  const declared = attributesOf(directory, facts.kind ?? "");
  const save = async () => {
    const body: Record<string, unknown> = { attributes, relations };
    for (const [k, v] of Object.entries(facts)) if (v !== "") body[k] = v;
    await api.put(`/api/cis/${encodeURIComponent(id)}`, body);
    onSaved?.(id);
  };
  return (
    <SetUpDialog title={ci ? ci.name : "A new CI"} save={save} stale={["ci", "cis"]} onClose={onClose} wide>
      {(at) => (
        <>
          <div className="grid gap-3 sm:grid-cols-3">
            <Input
              label="Id"
              required
              autoFocus={!ci}
              disabled={ci !== undefined}
              value={id}
              onChange={(e) => setId(e.target.value)}
              placeholder="ALD-G5"
            />
            <Input
              label="Name"
              required
              value={facts.name}
              problem={at("name")}
              onChange={(e) => set("name", e.target.value)}
            />
            <Input
              label="Kind"
              required
              value={facts.kind}
              problem={at("kind")}
              onChange={(e) => set("kind", e.target.value)}
              placeholder="gate"
            />
            <Select
              label="Life"
              value={facts.life}
              problem={at("life")}
              onChange={(picked) => set("life", picked)}
              options={LIVES.map((l) => ({ value: l, label: l }))}
            />
            <Select
              label="Service"
              value={facts.service}
              problem={at("service")}
              onChange={(picked) => set("service", picked)}
              options={[
                { value: "", label: "none" },
                ...(directory?.services ?? []).map((s) => ({ value: s.id, label: s.name })),
              ]}
            />
            <Select
              label="Looked after by"
              value={facts.owner}
              problem={at("owner")}
              onChange={(picked) => set("owner", picked)}
              options={[
                { value: "", label: "nobody named" },
                ...(directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })),
              ]}
            />
            <Input label="Site" value={facts.site} problem={at("site")} onChange={(e) => set("site", e.target.value)} />
            <Input
              label="Address"
              value={facts.address}
              problem={at("address")}
              onChange={(e) => set("address", e.target.value)}
            />
            {declared.map((f) => (
              <FieldInput
                key={f.name}
                // One that lacks it is incomplete, and saved all the same.
                field={{ ...f, required: false }}
                label={f.required ? `${f.label} (needed)` : f.label}
                value={attributes[f.name] as FieldValue | undefined}
                problem={at(`attributes.${f.name}`)}
                onChange={(value) => {
                  const { [f.name]: _, ...others } = attributes;
                  setAttributes(value === undefined ? others : { ...others, [f.name]: value });
                }}
              />
            ))}
          </div>
          <fieldset>
            <legend className="mb-1 text-sm font-semibold text-ink-2">Leads to</legend>
            {relations.map((r, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a row has no other name than its place
              <div key={i} className="mb-1 grid grid-cols-[1fr_1fr_auto] items-end gap-2">
                <Input
                  label="How"
                  hideLabel={i > 0}
                  required
                  value={r.relation}
                  placeholder="runs on"
                  onChange={(e) =>
                    setRelations(relations.map((x, j) => (j === i ? { ...x, relation: e.target.value } : x)))
                  }
                />
                <Input
                  label="To the CI"
                  hideLabel={i > 0}
                  required
                  value={r.to}
                  onChange={(e) => setRelations(relations.map((x, j) => (j === i ? { ...x, to: e.target.value } : x)))}
                />
                <Button
                  look="quiet"
                  aria-label={`Leave out ${r.relation} ${r.to}`}
                  onClick={() => setRelations(relations.filter((_, j) => j !== i))}
                >
                  ✕
                </Button>
              </div>
            ))}
            {at("relations") && (
              <p role="alert" className="mb-1 text-xs text-late">
                {at("relations")}
              </p>
            )}
            <Button onClick={() => setRelations([...relations, { relation: "", to: "" }])}>Add a neighbour</Button>
          </fieldset>
        </>
      )}
    </SetUpDialog>
  );
}
