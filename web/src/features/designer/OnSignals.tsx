import { useMutation } from "@tanstack/react-query";
import { api } from "../../api/client";
import { Trouble } from "../../ui/kit";

interface Tried {
  tried: number;
  holds: number;
  cannotSay: number;
}

/** A condition tried on the last signals, before any trigger is live: of how many it holds. */
export function OnSignals({ condition, source }: { condition: string; source?: string }) {
  const trial = useMutation({ mutationFn: () => api.post<Tried>("/api/signals/conditions", { condition, source }) });
  const t = trial.data;
  return (
    <>
      <button type="button" className="link text-xs" disabled={trial.isPending} onClick={() => trial.mutate()}>
        try it on the last 200 signals
      </button>
      {trial.isError && <Trouble error={trial.error} />}
      {t && (
        <p role="status" className="mt-1 text-sm">
          {t.tried === 0
            ? "No signal has come yet."
            : `It holds for ${t.holds} of ${t.tried}${t.cannotSay > 0 ? `; of ${t.cannotSay} it cannot say, since a value is absent` : ""}.`}
        </p>
      )}
    </>
  );
}
