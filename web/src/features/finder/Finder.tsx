import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { Command } from "cmdk";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import type { Found } from "../../api/types";
import { useGivesBack } from "../../ui/givesBack";

/** Something to go to or to do, with words by which people look for it. */
export interface Way {
  label: string;
  to: string;
  words: string;
}

/** Finds any ticket, workflow, person, CI, service or action, any place and what can be done there, from anywhere. */
export function Finder({
  open,
  onOpenChange,
  ways,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  ways: Way[];
}) {
  const navigate = useNavigate();
  useGivesBack();
  const [text, setText] = useState("");
  const asked = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: ["find", asked],
    queryFn: () => api.get<Found[]>(`/api/find?text=${encodeURIComponent(asked)}`),
    enabled: open && asked.length > 0,
  });

  const go = (to: string) => {
    onOpenChange(false);
    setText("");
    navigate({ to });
  };
  const place = (f: Found) => PLACES[f.kind]?.replace("$", f.id) ?? "/people";
  // What stands there is always of what was typed last: Enter must not go to what fitted some letters ago.
  const typed = text.trim();
  const now = typed === asked ? (found.data ?? []) : [];
  const fitting = ways.filter((w) => `${w.label} ${w.words}`.toLowerCase().includes(typed.toLowerCase()));
  const item = "flex cursor-pointer items-baseline gap-3 rounded-md px-3 py-1.5 data-[selected=true]:bg-selected";

  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpenChange}
      label="Find"
      shouldFilter={false}
      overlayClassName="fixed inset-0 z-40 bg-black/40"
      contentClassName="fixed top-[12vh] left-1/2 z-50 w-[min(620px,calc(100vw-24px))] -translate-x-1/2 overflow-hidden rounded-xl border border-hairline bg-raised shadow-xl"
    >
      <Command.Input
        value={text}
        onValueChange={setText}
        placeholder="A ticket, workflow, person, CI, place…"
        className="w-full border-b border-hairline bg-transparent px-4 py-3 text-base outline-none placeholder:text-ink-2"
      />
      <Command.List className="max-h-[50vh] overflow-auto p-2">
        {typed && typed === asked && found.isSuccess && now.length === 0 && fitting.length === 0 && (
          <p className="px-3 py-2 text-ink-2">Nothing is called that.</p>
        )}
        {fitting.map((w) => (
          <Command.Item key={w.to} value={w.to} className={item} onSelect={() => go(w.to)}>
            {typed && <span className="w-16 shrink-0 text-xs text-ink-2">go</span>}
            <span className={typed ? "font-semibold" : ""}>{w.label}</span>
          </Command.Item>
        ))}
        {typed !== "" &&
          now.map((f) => (
            <Command.Item
              key={`${f.kind} ${f.id}`}
              value={`${f.kind} ${f.id}`}
              className={item}
              onSelect={() => go(place(f))}
            >
              <span className="w-16 shrink-0 text-xs text-ink-2">{f.kind}</span>
              <span className="font-semibold">{f.title}</span>
              <span className="truncate text-ink-2">
                {f.id} · {f.detail}
              </span>
            </Command.Item>
          ))}
      </Command.List>
    </Command.Dialog>
  );
}

/** Where what was found stands. */
const PLACES: Record<string, string> = {
  ticket: "/tickets/$",
  workflow: "/workflows/$",
  CI: "/cis/$",
  service: "/services",
  action: "/actions/$",
  person: "/people",
  group: "/people",
};
