import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Ask, AtPartner, Difference, Ending, LateResult, Offer, Question } from "../../api/types";
import { Button, Digits, Off } from "../../ui/kit";
import { useSteady } from "../../ui/steady";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useSession } from "../signin/session";
import { AskCard } from "./AskCard";
import { DifferenceCard } from "./DifferenceCard";
import { OfferCard } from "./OfferCard";
import { LateCard, QuestionCard } from "./QuestionCard";

/** One of the things that a ticket asks of people. */
export type Asked =
  | { of: "ask"; ask: Ask }
  | { of: "offer"; offer: Offer }
  | { of: "question"; question: Question }
  | { of: "late"; late: LateResult }
  | { of: "difference"; difference: Difference; partner: AtPartner };

/** Whether it is asked of this person; what others have before them is told, not asked. */
export const isMine = (a: Asked) => a.of !== "ask" || a.ask.mine;

/** What a person decides on: when it changes, it is another decision. */
function matter(a: Asked): string {
  if (a.of === "difference") return JSON.stringify([a.difference.id, a.difference.ours, a.difference.word]);
  if (a.of !== "ask") return a.of;
  const { ask } = a;
  return JSON.stringify([ask.visit, ask.kind, ask.mine, ask.task?.outcomes, ask.approval?.round, ask.approval?.digest]);
}

/**
 * Something asked, with its buttons. When it is over it stays, with everything that was typed, says by whom it was settled
 * and how, and can no longer be pressed.
 */
export function StandingCard({
  id,
  asked,
  ticket,
  over,
  keys,
  chosen,
  onRead,
}: {
  id: string;
  asked: Asked;
  ticket: string;
  over: boolean;
  /** Whether single keys are for this one. */
  keys: boolean;
  /** Whether the person picked it themselves. */
  chosen?: boolean;
  onRead: () => void;
}) {
  const steady = useSteady(matter(asked), chosen);
  const live = keys && steady && !over;
  // A form that is sent by Enter, and buttons of other kinds, do nothing either.
  const refuse = (e: React.SyntheticEvent) => {
    if (over && (e.type === "submit" || (e.target as Element).closest("button"))) {
      e.preventDefault();
      e.stopPropagation();
    }
  };
  return (
    <div>
      {over && <Settled id={id} onRead={onRead} />}
      <Off value={over}>
        <div className={over ? "opacity-70" : ""} onClickCapture={refuse} onSubmitCapture={refuse}>
          <Digits value={live}>
            <Inner asked={asked} ticket={ticket} keys={live} />
          </Digits>
        </div>
      </Off>
    </div>
  );
}

function Inner({ asked, ticket, keys }: { asked: Asked; ticket: string; keys: boolean }) {
  switch (asked.of) {
    case "ask":
      return <AskCard ask={asked.ask} ticket={ticket} keys={keys} />;
    case "offer":
      return <OfferCard offer={asked.offer} ticket={ticket} keys={keys} />;
    case "question":
      return <QuestionCard question={asked.question} ticket={ticket} />;
    case "late":
      return <LateCard late={asked.late} ticket={ticket} />;
    case "difference":
      return <DifferenceCard difference={asked.difference} partner={asked.partner} ticket={ticket} keys={keys} />;
  }
}

/** By whom it was settled, when and how. */
function Settled({ id, onRead }: { id: string; onRead: () => void }) {
  const names = useNames();
  const now = useNow();
  const { session } = useSession();
  const ending = useQuery({
    queryKey: ["ending", id],
    queryFn: () => api.get<Ending>(`/api/endings?item=${encodeURIComponent(id)}`),
    retry: 1,
  });
  const e = ending.data;
  const own = e?.person === session.id;
  return (
    <div
      role="status"
      aria-label="What became of it"
      className={`mb-2 flex flex-wrap items-center gap-x-4 gap-y-2 rounded-xl border bg-sheet px-4 py-2.5 ${own ? "border-well" : "border-soon"}`}
    >
      <p className="min-w-0 flex-1">
        {e ? (
          <>
            <strong className={own ? "text-well" : "text-soon"}>
              {own ? "You" : e.person ? names.person(e.person) : e.by}
            </strong>{" "}
            {e.how}
            <span className="text-ink-2" title={exact(e.at)}>
              {" "}
              · {moment(e.at, now)}
              {!own && " · nothing you typed here was sent; it stays until you go on"}
            </span>
          </>
        ) : ending.isError ? (
          "This is no longer asked of you. Nothing you typed here was sent; it stays until you go on."
        ) : (
          "This is over…"
        )}
      </p>
      <Button onClick={onRead}>Go on</Button>
    </div>
  );
}
