import { Link } from "@tanstack/react-router";
import { Button } from "../../ui/kit";
import { useSession } from "../signin/session";
import { type Unsent, unsentWords, useUnsent } from "./unsent";
import { useSend } from "./useSend";

/** Says what was not sent, on every page, until it is or is thrown away. */
export function UnsentBar() {
  const { session } = useSession();
  const { list } = useUnsent();
  return list.filter((u) => u.person === session.id).map((u) => <Bar key={u.path} unsent={u} />);
}

function Bar({ unsent }: { unsent: Unsent }) {
  const { sent } = useUnsent();
  const send = useSend(unsent.ticket);
  return (
    <div role="alert" className="flex flex-wrap items-center gap-3 border-b border-late bg-sheet px-5 py-2">
      <span className="min-w-0 flex-1 wrap-anywhere">
        <strong className="text-late">Not sent:</strong> {unsentWords(unsent)} on{" "}
        <Link to="/tickets/$number" params={{ number: unsent.ticket }} className="link">
          {unsent.ticket}
        </Link>
        {send.isError && <span className="text-ink-2"> · {send.error.message}</span>}
      </span>
      <Button
        disabled={send.isPending}
        onClick={() => send.mutate({ path: unsent.path, body: unsent.body, put: unsent.put })}
      >
        Send it again
      </Button>
      <Button look="quiet" disabled={send.isPending} onClick={() => sent(unsent.path)}>
        Throw it away
      </Button>
    </div>
  );
}
