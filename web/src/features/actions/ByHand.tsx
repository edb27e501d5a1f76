import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { ByHand as Allowed } from "../../api/types";
import { Check } from "../../ui/Check";
import { Trouble } from "../../ui/kit";

/** Whether those who work on tickets may read by this action on a ticket. */
export function ByHand({ action, may }: { action: string; may: boolean }) {
  const queries = useQueryClient();
  const path = `/api/actions/${action}/by-hand`;
  const now = useQuery({ queryKey: ["by-hand", action], queryFn: () => api.get<Allowed>(path) });
  const set = useMutation({
    mutationFn: (allowed: boolean) => api.put<Allowed>(path, { allowed }),
    onSuccess: async (saved) => {
      queries.setQueryData(["by-hand", action], saved);
      await queries.invalidateQueries({ queryKey: ["readable"] });
    },
  });
  if (!now.data || (now.data.why && !now.data.allowed)) return null;
  return (
    <section aria-label="By hand">
      <h2 className="mb-1 font-bold">By hand</h2>
      <Check
        label="Those who work on tickets may read by it there, without a workflow; what it says stands on the record"
        checked={now.data.allowed}
        disabled={!may || set.isPending}
        onChange={(allowed) => set.mutate(allowed)}
      />
      {now.data.why && <p className="mt-1 text-sm text-late">It is not offered now: {now.data.why}</p>}
      {set.isError && <Trouble error={set.error} />}
    </section>
  );
}
