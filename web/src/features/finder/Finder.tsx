import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { Command } from "cmdk";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import type { Found } from "../../api/types";

const GO = [
  { label: "Go to the desk", to: "/desk" },
  { label: "Go to tickets", to: "/tickets" },
  { label: "Go to workflows", to: "/workflows" },
  { label: "Go to people", to: "/people" },
];

/** Finds any ticket, workflow, person or CI, from anywhere. */
export function Finder({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const asked = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: ["find", asked],
    queryFn: () => api.get<Found[]>(`/api/find?text=${encodeURIComponent(asked)}`),
    enabled: open && asked.length > 0,
    placeholderData: (before) => before,
  });

  const go = (to: string) => {
    onOpenChange(false);
    setText("");
    navigate({ to });
  };
  const place = (f: Found) =>
    f.kind === "ticket"
      ? `/tickets/${f.id}`
      : f.kind === "workflow"
        ? `/workflows/${f.id}`
        : f.kind === "CI"
          ? `/cis/${f.id}`
          : "/people";
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
        placeholder="A ticket, workflow, person or CI…"
        className="w-full border-b border-hairline bg-transparent px-4 py-3 text-base outline-none placeholder:text-ink-2"
      />
      <Command.List className="max-h-[50vh] overflow-auto p-2">
        {asked && found.isSuccess && found.data.length === 0 && (
          <p className="px-3 py-2 text-ink-2">Nothing is called that.</p>
        )}
        {asked === ""
          ? GO.map((g) => (
              <Command.Item key={g.to} value={g.to} className={item} onSelect={() => go(g.to)}>
                {g.label}
              </Command.Item>
            ))
          : (found.data ?? []).map((f) => (
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
