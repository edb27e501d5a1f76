import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import { Button, Input, Select, Trouble } from "../../ui/kit";

/** What whoever comes takes part as: named by the organisation, and made in place where a name is missing. */
export function PartPicker({
  value,
  onChange,
}: {
  value: string | undefined;
  onChange: (part: string | undefined) => void;
}) {
  const { directory } = useNames();
  const queries = useQueryClient();
  const [making, setMaking] = useState<string>();
  const parts = directory?.parts ?? [];
  const save = useMutation({
    mutationFn: (name: string) => api.put("/api/parts", { names: [...parts, name] }),
    onSuccess: async (_, name) => {
      await queries.invalidateQueries({ queryKey: ["directory"] });
      onChange(name);
      setMaking(undefined);
    },
  });
  return (
    <div>
      <Select
        label="Whoever comes is"
        value={value ?? ""}
        onChange={(picked) => (picked === "+" ? setMaking("") : onChange(picked || undefined))}
        options={[
          { value: "", label: "nothing named" },
          ...[...new Set([...parts, ...(value ? [value] : [])])].map((p) => ({ value: p, label: p })),
          { value: "+", label: "name another…" },
        ]}
      />
      {making !== undefined && (
        <div className="mt-2 flex items-end gap-2">
          <div className="min-w-0 flex-1">
            <Input
              label="Name it"
              autoFocus
              maxLength={80}
              placeholder="incident commander"
              value={making}
              onChange={(e) => setMaking(e.target.value)}
            />
          </div>
          <Button disabled={!making.trim() || save.isPending} onClick={() => save.mutate(making.trim())}>
            Add it
          </Button>
        </div>
      )}
      {save.isError && <Trouble error={save.error} />}
    </div>
  );
}
