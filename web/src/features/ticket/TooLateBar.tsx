import { Link } from "@tanstack/react-router";
import { Button } from "../../ui/kit";
import { useTooLate } from "./tooLate";

/** Says who was first and with what, until it is read: the card that was pressed is no longer there to say it. */
export function TooLateBar() {
  const { said, forget } = useTooLate();
  if (!said) return null;
  return (
    <div
      role="alert"
      className="fixed inset-x-3 bottom-16 z-20 mx-auto flex max-w-2xl items-center gap-3 rounded-xl border border-soon bg-sheet px-4 py-2.5 shadow-lg md:bottom-4"
    >
      <span className="min-w-0 flex-1">
        <strong className="text-soon">{said.title}.</strong> {said.detail}{" "}
        <Link to="/tickets/$number" params={{ number: said.ticket }} className="link">
          {said.ticket}
        </Link>
      </span>
      <Button onClick={forget}>All right</Button>
    </div>
  );
}
