import { useState } from "react";
import { api } from "../../api/client";
import { useCatalogue } from "../../api/hooks";
import type { PartnerBody } from "../../api/types";
import { Input, Select } from "../../ui/kit";
import { keyFor, SetUpDialog } from "../setup/saving";

/** A partner begins switched off, by its name and the action that lists its tickets; all else is set on its page. */
export function NewPartner({ onClose, onMade }: { onClose: () => void; onMade: (key: string) => void }) {
  const [name, setName] = useState("");
  const [list, setList] = useState("");
  const lists = (useCatalogue().data?.actions ?? []).filter((a) => !a.changesWorld && a.repeat === "free");
  const key = keyFor(name);
  const save = async () => {
    const body: PartnerBody = {
      name,
      on: false,
      every: "15 s",
      list,
      places: { id: "/id", title: "/title" },
      shared: [],
      told: [],
      otherwise: "kept",
    };
    await api.put(`/api/partners/${key}`, body);
    onMade(key);
  };
  return (
    <SetUpDialog title="A new partner" verb="Make it" save={save} stale={["partners"]} onClose={onClose}>
      {(at) => (
        <>
          <Input
            label="Name"
            required
            autoFocus
            value={name}
            problem={at("name") ?? at("key")}
            onChange={(e) => setName(e.target.value)}
          />
          <Select
            label="What lists its tickets"
            value={list}
            placeholder="an action that only reads…"
            problem={at("list")}
            options={lists.map((a) => ({ value: a.key, label: a.name }))}
            onChange={setList}
          />
          <p className="text-sm text-ink-2">
            The action takes “since” (a time) and, where the list comes in sheets, “sheet”. It gives “tickets”, a list,
            and “next”, the next sheet. It begins switched off: what its words mean is set next, and tried before it
            counts.
          </p>
        </>
      )}
    </SetUpDialog>
  );
}
