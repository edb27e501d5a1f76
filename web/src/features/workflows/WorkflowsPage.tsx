import { useMutation } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type ReactNode, useState } from "react";
import { api } from "../../api/client";
import { useNames, useWorkflows } from "../../api/hooks";
import { useKeys } from "../../ui/keys";
import {
  Button,
  Chip,
  Choices,
  Dialog,
  Empty,
  Input,
  Loading,
  PageHead,
  Select,
  TextArea,
  Trouble,
} from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { triggerWords } from "../designer/triggerWords";
import { designs, useSession } from "../signin/session";
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
              ? "Make the first one: a name is enough to begin."
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

const keyOf = (name: string) =>
  name
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")
    .slice(0, 60);

function NewDialog({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const workflows = useWorkflows();
  const [name, setName] = useState("");
  const [purpose, setPurpose] = useState("");
  const [kind, setKind] = useState("incident");
  const [copyOf, setCopyOf] = useState(EMPTY);
  const make = useMutation({
    mutationFn: () =>
      api.post<{ key: string }>("/api/workflows", {
        key: keyOf(name),
        name,
        ...(purpose ? { purpose } : {}),
        ...(kind ? { kind } : {}),
        ...(copyOf !== EMPTY ? { copyOf } : {}),
      }),
    onSuccess: ({ key }) => navigate({ to: "/workflows/$key", params: { key } }),
  });
  return (
    <Dialog title="New workflow" open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <Input
          label="Name"
          required
          autoFocus
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
          placeholder="Gate lane stuck open"
        />
        <TextArea
          label="Purpose"
          rows={2}
          value={purpose}
          onChange={(e) => setPurpose(e.target.value)}
          placeholder="What it is for, in a sentence"
        />
        <Select
          label="For"
          value={kind}
          onChange={(picked) => setKind(picked)}
          options={[
            { value: "incident", label: "Incidents" },
            { value: "change", label: "Changes" },
            { value: "request", label: "Requests" },
            { value: "", label: "Any ticket" },
          ]}
        />
        <div>
          <p className="mb-1 text-sm font-semibold text-ink-2">Start from</p>
          <Choices
            label="Start from"
            value={copyOf}
            onChange={setCopyOf}
            className="grid max-h-64 gap-2 overflow-auto sm:grid-cols-2"
            options={[
              {
                value: EMPTY,
                label: "An empty route",
                children: <Start name="An empty route" says="Begin with the first step." />,
              },
              ...(workflows.data ?? [])
                .filter((w) => !w.retired)
                .map((w) => ({
                  value: w.key,
                  label: w.name,
                  children: (
                    <Start name={`A copy of ${w.name}`} says={w.purpose}>
                      {w.steps} steps · {w.runs === 1 ? "ran once" : `ran ${w.runs} times`}
                    </Start>
                  ),
                })),
            ]}
          />
        </div>
        {make.isError && <Trouble error={make.error} />}
        <div>
          <Button look="primary" type="submit" disabled={make.isPending}>
            Make it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Begins with nothing; no workflow has such a key. */
const EMPTY = "+";

function Start({ name, says, children }: { name: string; says: string | undefined; children?: ReactNode }) {
  return (
    <>
      <span className="block font-semibold">{name}</span>
      <span className="block text-sm text-ink-2">{says}</span>
      {children && <span className="block text-xs text-ink-2">{children}</span>}
    </>
  );
}
