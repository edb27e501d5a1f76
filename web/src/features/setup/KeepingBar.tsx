import { Link } from "@tanstack/react-router";
import { Button } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { administers, useSession } from "../signin/session";
import { useKeeping, useLookingAfter } from "./keeping";

/** Says on every page what concerns everybody: that nothing goes out after a restore, or that nothing is signed any more. */
export function KeepingBar() {
  const { session } = useSession();
  const now = useNow();
  const keeping = useKeeping();
  const goOn = useLookingAfter("go-on");
  const k = keeping.data;
  return (
    <>
      {k?.heldSince && (
        <div role="alert" className="flex flex-wrap items-center gap-3 border-b border-late bg-sheet px-5 py-2">
          <span className="min-w-0 flex-1">
            <strong className="text-late">Restored from a copy</strong>{" "}
            <span title={exact(k.heldSince)}>{moment(k.heldSince, now)}</span>. You can work, but no call or message
            goes out and no clock rings until {administers(session) ? "you say so." : "an administrator says so."}
            {goOn.isError && <span className="text-ink-2"> · {goOn.error.message}</span>}
          </span>
          {administers(session) && (
            <Button disabled={goOn.isPending} onClick={() => goOn.mutate()}>
              Let things go out again
            </Button>
          )}
        </div>
      )}
      {k?.refused && (
        <div role="alert" className="border-b border-late bg-sheet px-5 py-2">
          <strong className="text-late">Records are not signed any more:</strong> the log is not the one that was signed
          last.{" "}
          <Link to="/keeping" className="link">
            What is known
          </Link>
        </div>
      )}
    </>
  );
}
