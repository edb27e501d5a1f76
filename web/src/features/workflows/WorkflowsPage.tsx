import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { useNames, useWorkflows } from "../../api/hooks";
import { useKeys } from "../../ui/keys";
import { Button, Chip, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { triggerWords } from "../designer/triggerWords";
import { designs, useSession } from "../signin/session";
import { NewDialog } from "./NewDialog";
import { OrderDialog } from "./OrderDialog";

/** The library of workflows. */
export function WorkflowsPage() {
  const workflows = useWorkflows();
  const names = useNames();
  const now = useNow();
  const { session } = useSession();
  const [making, setMaking] = useState(false);
  const [ordering, setOrdering] = useState(false);
  useKeys({ n: () => designs(session) && setMaking(true) });
  if (workflows.isPending) return <Loading what="workflows" />;
  if (workflows.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={workflows.error} onRetry={() => workflows.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead title="Workflows" sub={`${workflows.data.length} in the library`}>
        <Button onClick={() => setOrdering(true)}>Order of triggers…</Button>
        {designs(session) && (
          <Button look="primary" onClick={() => setMaking(true)}>
            New workflow
          </Button>
        )}
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto">
        {workflows.data.length === 0 && (
          <Empty title="No workflow yet">
            {designs(session)
              ? "Make the first one: from an empty route, or from one that ships with Dastur."
              : "A process owner makes the first one."}
          </Empty>
        )}
        <ul className="bg-sheet">
          {workflows.data.map((w) => (
            <li key={w.key} className="grid grid-cols-[1fr_auto] gap-x-6 border-b border-hairline px-5 py-3">
              <div className="min-w-0">
                <p className="flex flex-wrap items-center gap-2">
                  <Link to="/workflows/$key" params={{ key: w.key }} className="text-base font-bold hover:underline">
                    {w.name}
                  </Link>
                  {w.retired ? (
                    <Chip>retired</Chip>
                  ) : w.liveVersion ? (
                    <Chip tone="well">version {w.liveVersion} is live</Chip>
                  ) : (
                    <Chip>never published</Chip>
                  )}
                  {w.hasDraft && w.liveVersion && <Chip tone="soon">draft differs</Chip>}
                </p>
                <p className="mt-0.5 text-ink-2">
                  {w.triggers.length === 0
                    ? "Nothing starts it yet"
                    : w.triggers.map((t) => triggerWords(t, names) + (t.on ? "" : " (off)")).join("; ")}
                </p>
              </div>
              <div className="text-right text-ink-2">
                <p>
                  {w.runs} {w.runs === 1 ? "run" : "runs"}
                  {w.underWay > 0 && `, ${w.underWay} under way`}
                </p>
                <p>
                  {names.person(w.owner)}
                  {w.lastStarted && <span title={exact(w.lastStarted)}> · last {moment(w.lastStarted, now)}</span>}
                </p>
              </div>
            </li>
          ))}
        </ul>
      </div>
      {ordering && <OrderDialog mayChange={designs(session)} onClose={() => setOrdering(false)} />}
      {making && <NewDialog onClose={() => setMaking(false)} />}
    </>
  );
}
