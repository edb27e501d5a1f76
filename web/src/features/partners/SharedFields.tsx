import { useNames } from "../../api/hooks";
import type { PartnerBody, SharedField } from "../../api/types";
import { Button, Input, Select } from "../../ui/kit";
import { PlaceInput } from "./HowJoined";

const LEADS = [
  { value: "person", label: "a person says" },
  { value: "them", label: "theirs counts" },
  { value: "us", label: "ours counts" },
  { value: "later", label: "whoever was later counts" },
];

/** Fields that both desks have, with the words of each; below them, what of theirs only triggers look at. */
export function Fields({
  draft,
  inputs,
  sample,
  onChange,
}: {
  draft: PartnerBody;
  /** Of the changing action. */
  inputs: string[];
  sample?: string;
  onChange: (change: Partial<PartnerBody>) => void;
}) {
  const { directory } = useNames();
  const fields = (directory?.fields ?? []).filter((f) => !["title", "description"].includes(f.name));
  const change = (i: number, next: Partial<SharedField>) =>
    onChange({ shared: draft.shared.map((s, at) => (at === i ? { ...s, ...next } : s)) });
  return (
    <>
      <section aria-label="What both share">
        <h2 className="font-bold">What both share</h2>
        <p className="mb-2 text-sm text-ink-2">
          Whoever alone has changed a field is followed. Where both have, and say something else, what is chosen here
          counts.
        </p>
        {draft.shared.map((s, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the field itself is chosen here
          <fieldset key={i} className="mb-3 rounded border border-hairline p-3">
            <legend className="px-1 text-sm font-semibold text-ink-2">
              {fields.find((f) => f.name === s.ours)?.label ?? (s.ours || "A field")}
            </legend>
            <div className="grid gap-3 sm:grid-cols-4">
              <Select
                label="Our field"
                value={s.ours}
                placeholder="a field…"
                options={fields.map((f) => ({ value: f.name, label: f.label }))}
                onChange={(ours) => change(i, { ours })}
              />
              <PlaceInput
                label="Stands there at"
                needed
                sample={sample}
                value={s.at}
                onChange={(at) => change(i, { at })}
              />
              <Select
                label="Is sent there as"
                value={s.as ?? ""}
                options={[
                  { value: "", label: "nothing: only read" },
                  ...inputs.filter((n) => n !== "id").map((n) => ({ value: n, label: n })),
                ]}
                onChange={(as) => change(i, { as: as || undefined })}
              />
              <Select
                label="Where both changed it"
                value={s.leads}
                options={LEADS}
                onChange={(leads) => change(i, { leads: leads as SharedField["leads"] })}
              />
            </div>
            <Words shared={s} name={s.ours} onChange={(words) => change(i, { words })} />
            <Button
              look="quiet"
              className="mt-2"
              aria-label={`Share it no longer: ${s.ours}`}
              onClick={() => onChange({ shared: draft.shared.filter((_, at) => at !== i) })}
            >
              Share it no longer
            </Button>
          </fieldset>
        ))}
        <Button
          onClick={() => onChange({ shared: [...draft.shared, { ours: "", at: "", words: [], leads: "person" }] })}
        >
          Share a field
        </Button>
      </section>
      <section aria-label="What only triggers look at">
        <h2 className="font-bold">What only triggers look at</h2>
        <p className="mb-2 text-sm text-ink-2">
          Further values of theirs that conditions read as signal.name, such as what is wanted.
        </p>
        {draft.told.map((t, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the name itself is typed here
          <div key={i} className="mb-2 grid grid-cols-[1fr_1fr_auto] items-end gap-3">
            <Input
              label="Name"
              required
              pattern="[A-Za-z][A-Za-z0-9]*"
              value={t.name}
              onChange={(e) =>
                onChange({ told: draft.told.map((o, at) => (at === i ? { ...o, name: e.target.value } : o)) })
              }
            />
            <PlaceInput
              label="Stands there at"
              needed
              sample={sample}
              value={t.at}
              onChange={(place) => onChange({ told: draft.told.map((o, at) => (at === i ? { ...o, at: place } : o)) })}
            />
            <Button
              look="quiet"
              aria-label={`Take ${t.name} away`}
              onClick={() => onChange({ told: draft.told.filter((_, at) => at !== i) })}
            >
              ✕
            </Button>
          </div>
        ))}
        <Button onClick={() => onChange({ told: [...draft.told, { name: "", type: "text", at: "" }] })}>
          Add a value
        </Button>
      </section>
    </>
  );
}

/** What their words mean here, and what ours are called there: of several that fit, the first counts. */
function Words({
  shared,
  name,
  onChange,
}: {
  shared: SharedField;
  name: string;
  onChange: (words: SharedField["words"]) => void;
}) {
  const words = shared.words;
  const set = (i: number, next: Partial<SharedField["words"][number]>) =>
    onChange(words.map((w, at) => (at === i ? { ...w, ...next } : w)));
  return (
    <div className="mt-3">
      {words.length > 0 && (
        <div className="grid max-w-xl grid-cols-[1fr_24px_1fr_auto] items-center gap-x-2 gap-y-1.5">
          <span className="text-sm text-ink-2">Their word</span>
          <span />
          <span className="text-sm text-ink-2">Ours</span>
          <span />
          {words.map((w, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the word itself is typed here
            <div key={i} className="contents">
              <Input
                label={`Their word ${i + 1} for ${name}`}
                hideLabel
                required
                className="font-mono"
                value={w.theirs}
                onChange={(e) => set(i, { theirs: e.target.value })}
              />
              <span aria-hidden="true" className="text-center text-ink-2">
                ↔
              </span>
              <Input
                label={`Our word ${i + 1} for ${name}`}
                hideLabel
                required
                value={w.ours}
                onChange={(e) => set(i, { ours: e.target.value })}
              />
              <Button
                look="quiet"
                aria-label={`Take their word ${w.theirs} away`}
                onClick={() => onChange(words.filter((_, at) => at !== i))}
              >
                ✕
              </Button>
            </div>
          ))}
        </div>
      )}
      <Button className="mt-2" onClick={() => onChange([...words, { theirs: "", ours: "" }])}>
        {words.length === 0 ? "Their words are others…" : "Add a word"}
      </Button>
    </div>
  );
}
