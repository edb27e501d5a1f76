import { useState } from "react";
import { useNames } from "../../api/hooks";
import type { LateResult, Question } from "../../api/types";
import { Button, TextArea, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { useSession } from "../signin/session";
import { useSend } from "./useSend";

/** What somebody who decides wants to know first; the answer lets the decision's clocks run on. */
export function QuestionCard({ question, ticket }: { question: Question; ticket: string }) {
  const names = useNames();
  const now = useNow();
  const send = useSend(ticket);
  const { session } = useSession();
  const [text, setText] = useState("");
  const own = question.by === session.id;
  return (
    <section
      aria-label="A question"
      className={`rounded-xl border p-4 ${own ? "border-hairline bg-sheet" : "border-selected-edge bg-selected"}`}
    >
      <h2 className="text-base font-bold">{question.text ?? "The question was taken off the record."}</h2>
      <p className="mt-0.5 text-ink-2">
        {own ? "You ask" : `${names.person(question.by)} asks`} before deciding “{question.about}” · since{" "}
        {moment(question.at, now)} · {own ? "the requester was asked" : "the decision waits for your answer"}
      </p>
      <form
        hidden={own}
        className="mt-3 max-w-xl"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ path: `/api/approvals/${question.visit}/answer`, body: { text } });
        }}
      >
        <TextArea label="Answer" required rows={2} value={text} onChange={(e) => setText(e.target.value)} />
        <Button className="mt-2" look="primary" type="submit" disabled={send.isPending}>
          Answer
        </Button>
      </form>
      {send.isError && <Trouble error={send.error} />}
    </section>
  );
}

/** A machine answered after its step was over: somebody must see whether what it did is to stay. */
export function LateCard({ late, ticket }: { late: LateResult; ticket: string }) {
  const names = useNames();
  const send = useSend(ticket);
  const [note, setNote] = useState("");
  return (
    <section aria-label="A late result" className="rounded-xl border border-soon bg-sheet p-4">
      <h2 className="text-base font-bold">It came too late, and something outside may have changed</h2>
      <p className="mt-0.5 text-ink-2">
        A machine answered after its step of {late.workflow} was over. Its result is on the record and moved nothing.
        For {names.person(late.owner)} to look at.
      </p>
      <form
        className="mt-3 max-w-xl"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({
            path: `/api/late-results/${late.visit}/seen`,
            body: note.trim() ? { note } : {},
          });
        }}
      >
        <TextArea label="What you found or did" rows={2} value={note} onChange={(e) => setNote(e.target.value)} />
        <Button className="mt-2" look="primary" type="submit" disabled={send.isPending}>
          I have looked at it
        </Button>
      </form>
      {send.isError && <Trouble error={send.error} />}
    </section>
  );
}
