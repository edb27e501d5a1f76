import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { GrantView } from "../../api/types";
import { Button, Dialog, Loading, Select, Trouble } from "../../ui/kit";
import { clock } from "../../ui/time";

const HOURS = [1, 2, 4, 8];

/** Lets an administrator work on tickets as me for a few hours; only I can say so. */
export function ActAsDialog({ onClose }: { onClose: () => void }) {
  const names = useNames();
  const queries = useQueryClient();
  const view = useQuery({ queryKey: ["grant"], queryFn: () => api.get<GrantView>("/api/me/grant") });
  const [grantee, setGrantee] = useState("");
  const [hours, setHours] = useState("1");
  const done = () => {
    queries.invalidateQueries({ queryKey: ["grant"] });
    onClose();
  };
  const set = useMutation({
    mutationFn: () =>
      api.put("/api/me/grant", {
        grantee: grantee || view.data?.candidates[0],
        until: new Date(Date.now() + Number(hours) * 3_600_000).toISOString(),
      }),
    onSuccess: done,
  });
  const end = useMutation({ mutationFn: () => api.delete("/api/me/grant"), onSuccess: done });
  return (
    <Dialog title="Let an administrator help" open onClose={onClose}>
      {view.isPending && <Loading what="who may help" />}
      {view.isLoadingError && <Trouble error={view.error} onRetry={() => view.refetch()} />}
      {view.data?.grant && (
        <div className="mb-4 rounded-lg border border-hairline bg-sheet p-3">
          <p>
            <strong>{names.person(view.data.grant.grantee)}</strong> may work on tickets as you until{" "}
            {clock(view.data.grant.until)}.
          </p>
          <Button className="mt-2" disabled={end.isPending} onClick={() => end.mutate()}>
            End it now
          </Button>
        </div>
      )}
      {view.isSuccess && view.data.candidates.length === 0 && (
        <p className="text-ink-2">There is no other administrator.</p>
      )}
      {view.isSuccess && view.data.candidates.length > 0 && (
        <form
          className="flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            set.mutate();
          }}
        >
          <p className="text-sm text-ink-2">
            Administrators can always look at Dastur as you see it. If you say so here, one of them may also work on
            tickets as you for a while. The record names both of you; nothing else of yours can be changed.
          </p>
          <Select
            label="Who may help"
            value={grantee || view.data.candidates[0]}
            onChange={(picked) => setGrantee(picked)}
            options={view.data.candidates.map((p) => ({ value: p, label: names.person(p) }))}
          />
          <Select
            label="For"
            value={hours}
            onChange={(picked) => setHours(picked)}
            options={HOURS.map((h) => ({ value: String(h), label: h === 1 ? "an hour" : `${h} hours` }))}
          />
          {(set.isError || end.isError) && <Trouble error={set.error ?? end.error} />}
          <div>
            <Button look="primary" type="submit" disabled={set.isPending}>
              Let them help
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  );
}
