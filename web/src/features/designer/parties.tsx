import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { Party } from "../../api/types";
import { Button, Input, Select } from "../../ui/kit";
import { GroupDialog } from "../setup/GroupDialog";
import { partyWords } from "../ticket/words";

type Role = Extract<Party, { is: "role" }>["role"];

const ROLES: Role[] = ["agent", "process owner", "administrator", "auditor"];

/** Whoever is needed and not there yet is made in place (N28). */
const MAKE = "+";
const MAKE_GROUP = { value: MAKE, label: "make a group…" };

const write = (p: Party): string => {
  switch (p.is) {
    case "group":
      return `g:${p.group}`;
    case "person":
      return `p:${p.person}`;
    case "onCall":
      return `o:${p.level}:${p.rota}`;
    case "role":
      return `r:${p.role}`;
    case "takesPart":
      return `t:${p.as}`;
    case "computed":
      return `c:${p.expression}`;
    default:
      return p.is;
  }
};

function read(text: string): Party {
  const rest = text.slice(2);
  if (text.startsWith("g:")) return { is: "group", group: rest };
  if (text.startsWith("p:")) return { is: "person", person: rest };
  if (text.startsWith("o:")) return { is: "onCall", level: Number(rest.charAt(0)), rota: rest.slice(2) };
  if (text.startsWith("r:")) return { is: "role", role: rest as Role };
  if (text.startsWith("t:")) return { is: "takesPart", as: rest };
  if (text.startsWith("c:")) return { is: "computed", expression: rest };
  return { is: text as "requester" | "ticketGroup" | "ciOwner" | "manager" };
}

const ASSIGNEE: Party = { is: "computed", expression: "ticket.assignee" };

/** Somebody whom an expression names, such as a person in a form filled in before. */
const COMPUTED = "c:";

function useOptions() {
  const names = useNames();
  const { directory } = names;
  const parties: Party[] = [
    ...(directory?.groups ?? []).map((g): Party => ({ is: "group", group: g.id })),
    ...(directory?.rotas ?? []).flatMap((r) =>
      Array.from({ length: r.levels }, (_, i): Party => ({ is: "onCall", rota: r.key, level: i + 1 })),
    ),
    { is: "requester" },
    { is: "manager" },
    { is: "ticketGroup" },
    { is: "ciOwner" },
    ASSIGNEE,
    ...(directory?.parts ?? []).map((as): Party => ({ is: "takesPart", as })),
    ...ROLES.map((role): Party => ({ is: "role", role })),
    ...(directory?.people ?? []).filter((p) => p.active).map((p): Party => ({ is: "person", person: p.id })),
  ];
  return parties.map((p) => ({ value: write(p), label: partyWords(p, names) }));
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
  const names = useNames();
  const options = useOptions();
  const [making, setMaking] = useState(false);
  return (
    <>
      <Select
        label={label}
        value={value ? write(value) : ""}
        onChange={(picked) => (picked === MAKE ? setMaking(true) : onChange(picked === "" ? undefined : read(picked)))}
        options={[
          ...(none !== undefined || !value ? [{ value: "", label: none ?? "choose…" }] : []),
          ...options,
          ...(value?.is === "computed" && write(value) !== write(ASSIGNEE)
            ? [{ value: write(value), label: partyWords(value, names) }]
            : []),
          { value: COMPUTED, label: "whoever an expression names…" },
          MAKE_GROUP,
        ]}
      />
      {value?.is === "computed" && write(value) !== write(ASSIGNEE) && (
        <div className="mt-1">
          <Input
            label="Expression"
            className="font-mono"
            value={value.expression}
            onChange={(e) => onChange({ is: "computed", expression: e.target.value })}
            help="Gives the id of a person or group, such as steps.look.form.helper."
          />
        </div>
      )}
      {making && <GroupDialog onClose={() => setMaking(false)} onMade={(group) => onChange({ is: "group", group })} />}
    </>
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
  const [making, setMaking] = useState(false);
  const names = useNames();
  const labelOf = (p: Party) => partyWords(p, names);
  return (
    <div>
      <Select
        label={label}
        value=""
        onChange={(picked) => {
          if (picked === MAKE) setMaking(true);
          else if (picked) onChange([...value, read(picked)]);
        }}
        options={[
          { value: "", label: value.length ? "and…" : "choose…" },
          ...options.filter((o) => !value.some((p) => write(p) === o.value)),
          MAKE_GROUP,
        ]}
      />
      {making && (
        <GroupDialog
          onClose={() => setMaking(false)}
          onMade={(group) => onChange([...value, { is: "group", group }])}
        />
      )}
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
