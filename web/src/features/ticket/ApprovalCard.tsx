import { use, useState } from "react";
import { useNames } from "../../api/hooks";
import type { Ask } from "../../api/types";
import { useKeys } from "../../ui/keys";
import { Button, Input, Off, TextArea, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useSession } from "../signin/session";
import { Frame } from "./AskFrame";
import { Others } from "./Facts";
import { useSend } from "./useSend";
import { endingWords, valueWords } from "./words";

/** A decision: what is approved, what else to know, who was asked, and what happens if nobody acts. */
export function ApprovalCard({ ask, ticket, keys }: { ask: Ask; ticket: string; keys: boolean }) {
  const { session } = useSession();
  const names = useNames();
  const now = useNow();
  const act = useSend(ticket);
  const over = use(Off);
  const [declining, setDeclining] = useState(false);
  const [comment, setComment] = useState("");
  const [condition, setCondition] = useState("");
  const [asking, setAsking] = useState(false);
  const a = ask.approval;
  const vote = (approve: boolean) =>
    a &&
    act.mutate({
      path: `/api/approvals/${ask.visit}/vote`,
      body: {
        approve,
        round: a.round,
        digest: a.digest,
        ...(comment.trim() && { comment }),
        ...(approve && condition.trim() && { condition }),
      },
    });
  const may = ask.mine && !act.isPending;
  useKeys(
    keys && may && !declining && !asking && !a?.commentAlways
      ? { "1": () => vote(true), "2": () => setDeclining(true) }
      : {},
  );
  if (!a) return null;
  const said = Object.entries(a.cast);
  return (
    <Frame ask={ask} calm={!ask.mine}>
      <div className="mb-3 grid gap-x-8 gap-y-3 sm:grid-cols-2">
        <div>
          <h3 className="mb-1 text-sm font-semibold text-ink-2">What you approve</h3>
          <dl>
            {a.shown.map((s) => (
              <div key={s.path} className="flex justify-between gap-4 border-b border-hairline py-1">
                <dt className="text-ink-2">{s.label}</dt>
                <dd className="text-right font-medium">{valueWords(s.value)}</dd>
              </div>
            ))}
          </dl>
        </div>
        <div>
          <h3 className="mb-1 text-sm font-semibold text-ink-2">What else to know</h3>
          <dl>
            <Fact
              label="Also open on this CI"
              value={a.otherOpenOnCi === 0 ? "nothing" : <Others others={a.others} all={a.otherOpenOnCi} />}
              warn={a.otherOpenOnCi > 0}
            />
            <Fact label="Tickets on it in 30 days" value={a.recentOnCi} />
            <Fact label="This workflow so far" value={endingWords(a.endings)} />
            <Fact label="Decides" value={`${a.rule} of ${a.electorate.length}`} />
            {a.veto.length > 0 && <Fact label="A no ends it" value={a.veto.map((p) => names.person(p)).join(", ")} />}
            {a.round > 1 && <Fact label="Asked again" value={`round ${a.round}: what is shown has changed`} warn />}
          </dl>
        </div>
      </div>
      <p className="mb-2 text-sm text-ink-2">
        Asked:{" "}
        {a.electorate
          .map(
            (p) =>
              `${names.person(p)}${p in a.cast ? (a.cast[p] ? " ✓" : " ✗") : ""}${a.conditions[p] ? ` (${a.conditions[p]})` : ""}`,
          )
          .join(", ")}
        {a.turn.length < a.electorate.length &&
          a.turn.length > 0 &&
          ` · now it is the turn of ${a.turn.map((p) => names.person(p)).join(", ")}`}
        {a.excluded.length > 0 && ` · may not vote: ${a.excluded.map(names.person).join(", ")}`}
        {said.length === 0 && !over && ` · nobody has decided since ${moment(ask.openedAt, now)}`}
      </p>
      {session.id in a.cast && (
        <p className="text-sm">
          You said {a.cast[session.id] ? "yes" : "no"}; it is still open.{" "}
          <button
            type="button"
            className="link"
            onClick={() => act.mutate({ path: `/api/approvals/${ask.visit}/withdraw` })}
          >
            Take it back
          </button>
        </p>
      )}
      {ask.mine && !declining && !asking && a.mayAddConditions && (
        <div className="mb-3 max-w-xl">
          <Input
            label="Only on the condition"
            value={condition}
            onChange={(e) => setCondition(e.target.value)}
            placeholder="gates 3 and 4 only"
            help="Goes with your yes onto the record, and to the steps that follow."
          />
        </div>
      )}
      {ask.mine && !declining && !asking && a.commentAlways && (
        <div className="mb-3 max-w-xl">
          <TextArea label="Why (needed)" rows={2} value={comment} onChange={(e) => setComment(e.target.value)} />
        </div>
      )}
      {ask.mine && asking && (
        <form
          className="max-w-xl"
          onSubmit={(e) => {
            e.preventDefault();
            act.mutate(
              { path: `/api/approvals/${ask.visit}/question`, body: { text: comment } },
              { onSuccess: () => setAsking(false) },
            );
          }}
        >
          <TextArea
            label="What do you need to know?"
            help="The requester is asked. Until it is answered, the clocks of this decision stand still."
            required
            autoFocus
            value={comment}
            onChange={(e) => setComment(e.target.value)}
          />
          <div className="mt-2 flex gap-2">
            <Button look="primary" type="submit" disabled={!may}>
              Ask
            </Button>
            <Button look="quiet" onClick={() => setAsking(false)}>
              Back
            </Button>
          </div>
        </form>
      )}
      {ask.mine && !declining && !asking && (
        <div className="flex flex-wrap items-center gap-2 max-md:sticky max-md:bottom-0 max-md:-mx-4 max-md:border-t max-md:border-selected-edge max-md:bg-inherit max-md:px-4 max-md:py-2">
          <Button
            look="primary"
            digit={1}
            disabled={!may || (a.commentAlways && !comment.trim())}
            onClick={() => vote(true)}
          >
            {a.setsOff ? `Approve and ${a.setsOff}` : "Approve"}
          </Button>
          <Button digit={2} disabled={!may} onClick={() => setDeclining(true)}>
            Decline…
          </Button>
          {!a.questionOpen && (
            <Button look="quiet" disabled={!may} onClick={() => setAsking(true)}>
              Ask first…
            </Button>
          )}
          <span className="text-sm text-ink-2">You approve these values. If one changes, you are asked again.</span>
        </div>
      )}
      {ask.mine && declining && (
        <form
          className="max-w-xl"
          onSubmit={(e) => {
            e.preventDefault();
            vote(false);
          }}
        >
          <TextArea
            label={a.commentOnDecline || a.commentAlways ? "Why (needed)" : "Why"}
            value={comment}
            onChange={(e) => setComment(e.target.value)}
            autoFocus
            required={a.commentOnDecline || a.commentAlways}
          />
          <div className="mt-2 flex gap-2">
            <Button look="danger" type="submit" disabled={!may}>
              Decline
            </Button>
            <Button look="quiet" onClick={() => setDeclining(false)}>
              Back
            </Button>
          </div>
        </form>
      )}
      {act.isError && (
        <div className="mt-3">
          <Trouble error={act.error} />
        </div>
      )}
    </Frame>
  );
}

function Fact({ label, value, warn }: { label: string; value: React.ReactNode; warn?: boolean }) {
  return (
    <div className="flex justify-between gap-4 border-b border-hairline py-1">
      <dt className="text-ink-2">{label}</dt>
      <dd className={`text-right font-medium ${warn ? "text-soon" : ""}`}>{value}</dd>
    </div>
  );
}
