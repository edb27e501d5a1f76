import { useNames } from "../../api/hooks";
import type { Party } from "../../api/types";
import { Button, Select } from "../../ui/kit";

const write = (p: Party): string => (p.is === "group" ? `g:${p.group}` : p.is === "person" ? `p:${p.person}` : p.is);

function read(text: string): Party {
  if (text.startsWith("g:")) return { is: "group", group: text.slice(2) };
  if (text.startsWith("p:")) return { is: "person", person: text.slice(2) };
  return { is: text as "requester" | "ticketGroup" | "ciOwner" };
}

function useOptions() {
  const { directory } = useNames();
  return [
    ...(directory?.groups ?? []).map((g) => ({ value: `g:${g.id}`, label: `${g.name} (${g.members.length})` })),
    { value: "requester", label: "the requester" },
    { value: "ticketGroup", label: "the ticket’s group" },
    { value: "ciOwner", label: "the CI’s owner" },
    ...(directory?.people ?? []).filter((p) => p.active).map((p) => ({ value: `p:${p.id}`, label: p.name })),
  ];
}

/** Chooses one party. */
export function PartyPicker({
  label,
  value,
  onChange,
  none,
}: {
  label: string;
  value: Party | undefined;
  onChange: (p: Party | undefined) => void;
  none?: string;
}) {
  const options = useOptions();
  return (
    <Select
      label={label}
      value={value ? write(value) : ""}
      onChange={(e) => onChange(e.target.value === "" ? undefined : read(e.target.value))}
      options={[...(none !== undefined || !value ? [{ value: "", label: none ?? "choose…" }] : []), ...options]}
    />
  );
}

/** Chooses several parties. */
export function PartiesPicker({
  label,
  value,
  onChange,
}: {
  label: string;
  value: Party[];
  onChange: (p: Party[]) => void;
}) {
  const options = useOptions();
  const labelOf = (p: Party) => options.find((o) => o.value === write(p))?.label ?? write(p);
  return (
    <div>
      <Select
        label={label}
        value=""
        onChange={(e) => e.target.value && onChange([...value, read(e.target.value)])}
        options={[
          { value: "", label: value.length ? "and…" : "choose…" },
          ...options.filter((o) => !value.some((p) => write(p) === o.value)),
        ]}
      />
      <ul className="mt-1 flex flex-wrap gap-1">
        {value.map((p) => (
          <li key={write(p)} className="flex items-center rounded-full border border-hairline bg-sheet pl-2.5 text-sm">
            {labelOf(p)}
            <Button
              look="quiet"
              className="!px-2 !py-0"
              aria-label={`Leave out ${labelOf(p)}`}
              onClick={() => onChange(value.filter((x) => x !== p))}
            >
              ✕
            </Button>
          </li>
        ))}
      </ul>
    </div>
  );
}
