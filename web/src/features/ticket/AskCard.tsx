import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { Ask, Intervention } from "../../api/types";
import { useKeys } from "../../ui/keys";
import { Button, Select, TextArea, Trouble } from "../../ui/kit";
import { clock, moment, span } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { seesAll, useSession } from "../signin/session";
import { ApprovalCard } from "./ApprovalCard";
import { Frame } from "./AskFrame";
import { TaskCard } from "./TaskCard";
import { useSend } from "./useSend";

/** What is asked of people on a ticket, with its buttons, and what happens if nobody acts. Digits press the buttons. */
export function AskCard({ ask, ticket, keys: wanted }: { ask: Ask; ticket: string; keys: boolean }) {
  const now = useNow();
  const keys = wanted && !ask.heldSince;
  switch (ask.kind) {
    case "task":
      return <TaskCard ask={ask} ticket={ticket} keys={keys} />;
    case "approval":
      return <ApprovalCard ask={ask} ticket={ticket} keys={keys} />;
    case "review":
      return <ReviewCard ask={ask} ticket={ticket} keys={keys} />;
    case "call-in":
      return <CallInCard ask={ask} ticket={ticket} keys={keys} />;
    case "stalled":
      return <StalledCard ask={ask} ticket={ticket} />;
    default:
      return (
        <Frame ask={ask} calm>
          <p className="text-ink-2">
            {ask.kind === "machine"
              ? `A machine is at it since ${clock(ask.openedAt)}. Nothing is needed from you.`
              : ask.due
                ? `Waits until ${moment(ask.due, now)} at most.`
                : "Waits."}
          </p>
        </Frame>
      );
  }
}

type Verdict = "accept" | "measure again" | "put back" | "does not hold";

/** Somebody looks at a check that does not hold: every rule with its numbers, what turned bad first. */
function ReviewCard({ ask, ticket, keys }: { ask: Ask; ticket: string; keys: boolean }) {
  const act = useSend(ticket);
  const { session } = useSession();
  const [accepting, setAccepting] = useState(false);
  const [reason, setReason] = useState("");
  const review = ask.review;
  const say = (verdict: Verdict) =>
    act.mutate({ path: `/api/reviews/${ask.visit}`, body: { verdict, ...(reason.trim() ? { reason } : {}) } });
  const may = ask.mine && !act.isPending;
  const acceptable = review?.verdicts.includes("accept");
  useKeys(keys && may && acceptable && !accepting ? { "1": () => setAccepting(true) } : {});
  if (!review) return null;
  const rules = [...review.rules].sort((a, b) => Number(a.holds) - Number(b.holds));
  return (
    <Frame ask={ask} calm={!ask.mine}>
      <ul className="mb-3">
        {rules.map((r) => (
          <li key={r.name} className="flex gap-3 border-b border-hairline py-1">
            <span className={`w-5 ${r.holds ? "text-well" : "font-bold text-late"}`}>{r.holds ? "✓" : "✗"}</span>
            <span className="min-w-0 flex-1">
              <strong className="font-semibold">{r.name}</strong>
              {!r.holds && r.sense === "should stay" && <span className="ml-2 text-late">turned bad</span>}
              <span className="block text-sm text-ink-2">
                {r.why}
                {r.ageSeconds !== undefined && ` Measured ${span(r.ageSeconds * 1000)} before.`}
              </span>
            </span>
          </li>
        ))}
      </ul>
      {seesAll(session) && (
        <p className="mb-3">
          <Link to="/compare" search={{ of: ticket }} className="link">
            Compare with what was measured before
          </Link>
        </p>
      )}
      {ask.mine && !accepting && (
        <div className="flex flex-wrap gap-2">
          {review.verdicts.includes("accept") && (
            <Button look="primary" digit={1} disabled={!may} onClick={() => setAccepting(true)}>
              Accept…
            </Button>
          )}
          {review.verdicts.includes("measure again") && (
            <Button disabled={!may} onClick={() => say("measure again")}>
              Measure again
            </Button>
          )}
          {review.verdicts.includes("does not hold") && (
            <Button disabled={!may} onClick={() => say("does not hold")}>
              It does not hold
            </Button>
          )}
          {review.verdicts.includes("put back") && (
            <Button look="danger" disabled={!may} onClick={() => say("put back")}>
              Put back
            </Button>
          )}
        </div>
      )}
      {ask.mine && accepting && (
        <form
          className="max-w-xl"
          onSubmit={(e) => {
            e.preventDefault();
            say("accept");
          }}
        >
          <TextArea
            label="Why it is acceptable"
            help="Goes onto the record."
            required
            autoFocus
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
          <div className="mt-2 flex gap-2">
            <Button look="primary" type="submit" disabled={!may}>
              Accept
            </Button>
            <Button look="quiet" onClick={() => setAccepting(false)}>
              Back
            </Button>
          </div>
        </form>
      )}
      {!ask.mine && <p className="text-ink-2">This is not asked of you.</p>}
      {act.isError && (
        <div className="mt-3">
          <Trouble error={act.error} />
        </div>
      )}
    </Frame>
  );
}

function CallInCard({ ask, ticket, keys }: { ask: Ask; ticket: string; keys: boolean }) {
  const names = useNames();
  const act = useSend(ticket);
  const may = ask.mine && !act.isPending;
  const answer = (accept: boolean) => act.mutate({ path: `/api/call-ins/${ask.visit}/answer`, body: { accept } });
  useKeys(keys && may ? { "1": () => answer(true), "2": () => answer(false) } : {});
  return (
    <Frame ask={ask} calm={!ask.mine}>
      <p className="mb-2 text-sm text-ink-2">
        Called in:{" "}
        {ask.callIn?.asked
          .map((p) => `${names.person(p)}${ask.callIn?.cannot.includes(p) ? " (cannot)" : ""}`)
          .join(", ") || "nobody yet"}
      </p>
      {ask.mine && (
        <div className="flex flex-wrap gap-2">
          <Button look="primary" digit={1} disabled={!may} onClick={() => answer(true)}>
            I am coming
          </Button>
          <Button digit={2} disabled={!may} onClick={() => answer(false)}>
            I cannot
          </Button>
        </div>
      )}
      {act.isError && (
        <div className="mt-3">
          <Trouble error={act.error} />
        </div>
      )}
    </Frame>
  );
}

type Remedy = Exclude<Intervention, "skip" | "re-run from" | "hold" | "resume" | "move to version">;

const REMEDY: Record<Remedy, string> = {
  retry: "Try again",
  "retry anew": "Try again with new inputs",
  "take exit": "Take a way by hand…",
  "it happened": "It happened: go on",
  "it did not happen": "It did not happen: do it",
  "ask again": "Ask for approval again",
  "go on": "Go on all the same",
  "stop run": "Stop the run",
  "stop and put back": "Stop and put everything back",
};

/** On a test, what would reach beyond the ticket waits: whoever tries it says how it is to have gone. */
const WITHHELD: Partial<Record<Remedy, string>> = {
  "take exit": "As if it had been done…",
  retry: "Do it in earnest",
  "stop run": "Stop the run",
};

function StalledCard({ ask, ticket }: { ask: Ask; ticket: string }) {
  const act = useSend(ticket);
  const [chosen, setChosen] = useState<Remedy>();
  const [exit, setExit] = useState("");
  const [reason, setReason] = useState("");
  const stall = ask.stall;
  if (!stall) return null;
  const withheld = stall.code === "withheld";
  const say = (remedy: Remedy) => (withheld && WITHHELD[remedy]) || REMEDY[remedy];
  return (
    <section
      aria-label={ask.name}
      className={`rounded-xl border bg-sheet p-4 ${withheld ? "border-line" : "border-late"}`}
    >
      <h2 className="text-base font-bold">
        <span className={withheld ? "" : "text-late"}>
          {withheld ? "Withheld" : stall.code === "unsure" ? "Unsure" : "Stalled"}:
        </span>{" "}
        {ask.name}
      </h2>
      <p className="mt-0.5">
        {stall.code === "unsure" ? `${stall.why} Look at the other system: did it happen?` : stall.why}
      </p>
      {ask.mine ? (
        <>
          <div className="mt-3 flex flex-wrap gap-2">
            {(stall.remedies as Remedy[]).map((r, i) => (
              <Button
                key={r}
                look={i === 0 ? "primary" : r === "stop run" ? "danger" : "plain"}
                aria-pressed={chosen === r}
                onClick={() => {
                  setChosen(r);
                  if (withheld) {
                    setReason((was) => was || "A test");
                    setExit((was) => was || (stall.exits[0] ?? ""));
                  }
                }}
              >
                {say(r)}
              </Button>
            ))}
          </div>
          {chosen && (
            <form
              className="mt-3 max-w-xl"
              onSubmit={(e) => {
                e.preventDefault();
                act.mutate(
                  {
                    path: `/api/tickets/${ticket}/interventions`,
                    body: {
                      run: ask.run,
                      visit: ask.visit,
                      kind: chosen,
                      reason,
                      ...(chosen === "take exit" ? { exit } : {}),
                    },
                  },
                  { onSuccess: () => setChosen(undefined) },
                );
              }}
            >
              {chosen === "take exit" && (
                <Select
                  label="Which way"
                  required
                  value={exit}
                  onChange={(picked) => setExit(picked)}
                  options={[{ value: "", label: "choose how…" }, ...stall.exits.map((x) => ({ value: x, label: x }))]}
                />
              )}
              <TextArea
                label={`Why: ${say(chosen)}`}
                help={
                  chosen === "retry" && withheld
                    ? "It is done for real, and not undone when the test ends. Goes onto the record."
                    : chosen === "retry"
                      ? stall.sameInputs
                        ? "What was sent before is sent again, unchanged. Goes onto the record."
                        : "Inputs are taken anew. Goes onto the record."
                      : chosen === "retry anew"
                        ? "Inputs are taken from the ticket and the steps as they are now; what was approved must still be so. Goes onto the record."
                        : "Goes onto the record."
                }
                required
                autoFocus
                value={reason}
                onChange={(e) => setReason(e.target.value)}
              />
              <div className="mt-2 flex gap-2">
                <Button look="primary" type="submit" disabled={act.isPending}>
                  Do it
                </Button>
                <Button look="quiet" onClick={() => setChosen(undefined)}>
                  Back
                </Button>
              </div>
            </form>
          )}
        </>
      ) : (
        <p className="mt-2 text-ink-2">
          The workflow’s owner is told on their desk.{" "}
          <Link to="/workflows" className="link">
            Workflows
          </Link>
        </p>
      )}
      {act.isError && (
        <div className="mt-3">
          <Trouble error={act.error} />
        </div>
      )}
    </section>
  );
}
