import { useNames } from "../../api/hooks";
import type { Ticket } from "../../api/types";
import { clock, day } from "../../ui/time";
import { useSession } from "../signin/session";

/** That a ticket is a test: who it asks, what it holds back, and when it is over. */
export function TestBar({ ticket }: { ticket: Ticket }) {
  const names = useNames();
  const { session } = useSession();
  const test = ticket.test;
  if (!test) return null;
  const mine = test.by === session.id;
  const who = mine ? "You stand" : `${names.person(test.by)} stands`;
  return (
    <section aria-label="A test" className="border-b border-hairline bg-here px-5 py-2">
      <p>
        <b>This is a test</b>, in no list and no figure.{" "}
        {ticket.ended
          ? "It is over."
          : `${who} for everybody who would be asked or told; what would change something elsewhere waits until ${mine ? "you say" : "they say"} so.`}
      </p>
      {!ticket.ended && (
        <p className="text-sm">
          It ends by itself {day(test.until)}, {clock(test.until)}, or when somebody ends it before.
        </p>
      )}
    </section>
  );
}
