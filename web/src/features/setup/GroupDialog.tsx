import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { CalendarView } from "../../api/types";
import { Check } from "../../ui/Check";
import { Input, Select } from "../../ui/kit";
import { keyFor, SetUpDialog } from "./saving";

/** Makes a group or changes who is in it. */
export function GroupDialog({
  group,
  onClose,
  onMade,
}: {
  group?: { id: string; name: string; members: string[]; calendar?: string };
  onClose: () => void;
  onMade?: (id: string) => void;
}) {
  const { directory } = useNames();
  const [name, setName] = useState(group?.name ?? "");
  const [members, setMembers] = useState<string[]>(group?.members ?? []);
  const [calendar, setCalendar] = useState(group?.calendar ?? "");
  const calendars = useQuery({ queryKey: ["calendars"], queryFn: () => api.get<CalendarView[]>("/api/calendars") });
  const key = group?.id ?? keyFor(name);
  const taken = !group && directory?.groups.some((g) => g.id === key);
  return (
    <SetUpDialog
      title={group ? group.name : "A new group"}
      save={async () => {
        if (taken) throw new Error("taken");
        await api.put(`/api/groups/${key}`, { name, members, ...(calendar && { calendar }) });
        onMade?.(key);
      }}
      stale={["people"]}
      onClose={onClose}
    >
      {(at) => (
        <>
          <Input
            label="Name"
            required
            autoFocus
            value={name}
            problem={taken ? "There is a group of this name." : at("name")}
            onChange={(e) => setName(e.target.value)}
          />
          <fieldset>
            <legend className="mb-1 text-sm font-semibold text-ink-2">Members</legend>
            <div className="grid max-h-72 gap-x-4 overflow-auto sm:grid-cols-2">
              {(directory?.people ?? [])
                .filter((p) => p.active)
                .map((p) => (
                  <Check
                    key={p.id}
                    label={p.name}
                    checked={members.includes(p.id)}
                    onChange={(picked) => setMembers(picked ? [...members, p.id] : members.filter((m) => m !== p.id))}
                  />
                ))}
            </div>
          </fieldset>
          <Select
            label="Its working hours"
            value={calendar}
            problem={at("calendar")}
            onChange={(picked) => setCalendar(picked)}
            options={[
              { value: "", label: "those of the ticket’s service" },
              ...(calendars.data ?? []).map((c) => ({ value: c.calendar.key, label: c.calendar.name })),
            ]}
            help="Working time of what this group alone is asked counts in these."
          />
          {members.length === 0 && (
            <p className="text-sm text-soon">Nobody is in it yet: workflows that ask it will stall.</p>
          )}
        </>
      )}
    </SetUpDialog>
  );
}
