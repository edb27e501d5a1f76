import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Action, ActionUser, ActionVersion, ActionView } from "../../api/types";
import { Button, Chip, TextArea, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { SetUpDialog } from "../setup/saving";
import { numberWords } from "./figures";

/** Puts what a change of a version was answered on the page. */
function useChanged(key: string) {
  const queries = useQueryClient();
  return async (view: ActionView) => {
    queries.setQueryData(["action", key], view);
    await Promise.all(["automation", "catalogue"].map((k) => queries.invalidateQueries({ queryKey: [k] })));
  };
}

/**
 * Its versions with their mends, newest first; what was withdrawn says why, and is let in again (M1).
 *
 * @param onTake puts an earlier one into the form; left out for whoever may not change it
 */
export function Versions({ view, onTake }: { view: ActionView; onTake?: (action: Action) => void }) {
  const now = useNow();
  const people = useNames();
  const changed = useChanged(view.action.key);
  const [withdrawing, setWithdrawing] = useState<ActionVersion>();
  const letIn = useMutation({
    mutationFn: (version: number) =>
      api.post<ActionView>(`/api/actions/${view.action.key}/versions/${version}/use`, undefined),
    onSuccess: changed,
  });
  const counts = (v: ActionVersion) => view.versions.find((o) => o.number.version === v.number.version) === v;
  return (
    <section aria-label="Its versions">
      <h2 className="mb-1 font-bold">Its versions</h2>
      <ul>
        {view.versions.map((v, i) => (
          <li
            key={numberWords(v.number)}
            className="flex flex-wrap gap-x-2 gap-y-1 border-b border-hairline py-1.5 text-sm"
          >
            <span className="min-w-0 flex-1">
              <span className="font-semibold">{numberWords(v.number)}</span>{" "}
              {v.action.withdrawn && counts(v) && <Chip tone="late">withdrawn</Chip>}{" "}
              <span className="text-ink-2" title={exact(v.at)}>
                {v.by ? `${people.person(v.by)}, ${moment(v.at, now)}` : "as it was set up"}
              </span>
              {v.why && (
                <>
                  <br />
                  {v.why}
                </>
              )}
            </span>
            {onTake && i > 0 && (
              <Button
                look="quiet"
                aria-label={`Take version ${numberWords(v.number)} into the form`}
                onClick={() => onTake(v.action)}
              >
                Take into the form
              </Button>
            )}
            {onTake &&
              counts(v) &&
              (v.action.withdrawn ? (
                <Button
                  look="quiet"
                  aria-label={`Let version ${v.number.version} be used again`}
                  disabled={letIn.isPending}
                  onClick={() => letIn.mutate(v.number.version)}
                >
                  Let be used again
                </Button>
              ) : (
                <Button
                  look="quiet"
                  aria-label={`Withdraw… version ${v.number.version}`}
                  onClick={() => setWithdrawing(v)}
                >
                  Withdraw…
                </Button>
              ))}
          </li>
        ))}
      </ul>
      {letIn.isError && <Trouble error={letIn.error} />}
      {withdrawing && (
        <WithdrawDialog
          action={view.action}
          version={withdrawing.number.version}
          users={view.users.filter((u) => u.version === withdrawing.number.version)}
          onWithdrawn={changed}
          onClose={() => setWithdrawing(undefined)}
        />
      )}
    </section>
  );
}

/** Asks why a version is withdrawn, and says before what that does and for whom. */
export function WithdrawDialog({
  action,
  version,
  users,
  onWithdrawn,
  onClose,
}: {
  action: Action;
  version: number;
  users: ActionUser[];
  onWithdrawn: (view: ActionView) => Promise<void>;
  onClose: () => void;
}) {
  const [why, setWhy] = useState("");
  return (
    <SetUpDialog
      title={`Withdraw version ${version} of ${action.name}`}
      verb="Withdraw it"
      save={() =>
        api
          .put<ActionView>(`/api/actions/${action.key}/versions/${version}/withdrawal`, { why: why.trim() })
          .then(onWithdrawn)
      }
      stale={[]}
      onClose={onClose}
    >
      {(at) => (
        <>
          <p className="text-ink-2">
            Nothing begins by it any more: work that comes to it stalls and says why. What is under way goes on.
          </p>
          <p className="text-ink-2">
            {users.length === 0
              ? "No live workflow uses it."
              : `Used by ${users.map((u) => `“${u.name}” (${u.steps.join(", ")})`).join(", ")}.`}
          </p>
          <TextArea
            label="Why"
            help="Whoever looks after work that stalls reads it; it goes into the journal."
            required
            autoFocus
            value={why}
            problem={at("why")}
            onChange={(e) => setWhy(e.target.value)}
          />
        </>
      )}
    </SetUpDialog>
  );
}
