import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Cover, CoverView } from "../../api/types";
import { Button, Dialog, Loading, Select, Trouble } from "../../ui/kit";
import { clock, day } from "../../ui/time";
import { When } from "../../ui/When";
import { useSession } from "../signin/session";

const SCOPE_WORDS: Record<Cover["scope"], string> = { all: "", tasks: " in tasks", decisions: " in decisions" };

const when = (at: string) => `${day(at)}, ${clock(at)}`;

const local = (at: Date) => new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);

/** Who acts for me while I am away: what is asked of me by name stands on their desk too. */
export function AwayDialog({ onClose }: { onClose: () => void }) {
  const names = useNames();
  const queries = useQueryClient();
  const { session } = useSession();
  const view = useQuery({ queryKey: ["cover"], queryFn: () => api.get<CoverView>("/api/me/cover") });
  const [cover, setCover] = useState("");
  const [scope, setScope] = useState<Cover["scope"]>("all");
  const [from, setFrom] = useState(local(new Date()));
  const [until, setUntil] = useState(local(new Date(Date.now() + 7 * 86_400_000)));
  const done = () => {
    queries.invalidateQueries({ queryKey: ["cover"] });
    queries.invalidateQueries({ queryKey: ["desk"] });
    onClose();
  };
  const set = useMutation({
    mutationFn: () =>
      api.put("/api/me/cover", {
        cover,
        scope,
        from: new Date(from).toISOString(),
        until: new Date(until).toISOString(),
      }),
    onSuccess: done,
  });
  const end = useMutation({ mutationFn: () => api.delete("/api/me/cover"), onSuccess: done });
  const people = (names.directory?.people ?? []).filter((p) => p.active && p.id !== session.id);
  return (
    <Dialog title="When I am away" open onClose={onClose}>
      {view.isPending && <Loading what="your cover" />}
      {view.isLoadingError && <Trouble error={view.error} onRetry={() => view.refetch()} />}
      {view.data?.covering.map((c) => (
        <p key={`${c.person} ${c.scope}`} className="mb-2">
          You act for <strong>{names.person(c.person)}</strong>
          {SCOPE_WORDS[c.scope]} until {when(c.until)}.
        </p>
      ))}
      {view.data && view.data.mine.length > 0 && (
        <div className="mb-4 rounded-lg border border-hairline bg-sheet p-3">
          {view.data.mine.map((c) => (
            <p key={c.scope}>
              <strong>{names.person(c.cover)}</strong> acts for you{SCOPE_WORDS[c.scope]} from {when(c.from)} until{" "}
              {when(c.until)}.
            </p>
          ))}
          <Button className="mt-2" disabled={end.isPending} onClick={() => end.mutate()}>
            End it: I am back
          </Button>
        </div>
      )}
      {view.isSuccess && (
        <form
          className="flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            set.mutate();
          }}
        >
          <p className="text-sm text-ink-2">
            Tasks and decisions asked of you by name stand on your cover’s desk too. The record says who acted for whom.
            Whoever may not decide something cannot decide it for you either.
          </p>
          <Select
            label="Acts for me"
            required
            value={cover}
            onChange={(picked) => setCover(picked)}
            options={[{ value: "", label: "choose…" }, ...people.map((p) => ({ value: p.id, label: p.name }))]}
          />
          <Select
            label="In what"
            value={scope}
            onChange={(picked) => setScope(picked as Cover["scope"])}
            options={[
              { value: "all", label: "everything asked of me by name" },
              { value: "tasks", label: "tasks" },
              { value: "decisions", label: "decisions" },
            ]}
            help="Somebody else may have the other kind."
          />
          <div className="grid gap-3 sm:grid-cols-2">
            <When label="From" required value={from} onChange={(picked) => setFrom(picked)} />
            <When label="Until" required value={until} onChange={(picked) => setUntil(picked)} />
          </div>
          {(set.isError || end.isError) && <Trouble error={set.error ?? end.error} />}
          <div>
            <Button look="primary" type="submit" disabled={set.isPending}>
              Set my cover
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  );
}
