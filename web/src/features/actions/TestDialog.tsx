import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api } from "../../api/client";
import type { Connection, ConnectionTested } from "../../api/types";
import { Button, Dialog, Trouble } from "../../ui/kit";
import { span } from "../../ui/time";

type Says = ConnectionTested["reached"];

const MARK: Record<Says, string> = { yes: "✓", no: "✕", "cannot say": "–" };
const TONE: Record<Says, string> = { yes: "text-well", no: "font-semibold text-late", "cannot say": "text-ink-2" };

/** What a connection's test found out: who answers, whether we are let in, and what each right is for (M6). */
export function TestDialog({ connection, onClose }: { connection: Connection; onClose: () => void }) {
  const tested = useQuery({
    queryKey: ["connection-test", connection.key],
    queryFn: () => api.post<ConnectionTested>(`/api/connections/${connection.key}/test`, {}),
    retry: false,
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: false,
  });
  return (
    <Dialog title={`Test of ${connection.name}`} open onClose={onClose} wide>
      <p className="mb-3 text-ink-2">It is asked who is there and what may be done; nothing is done.</p>
      {tested.isFetching && <p role="status">Asking {connection.name} …</p>}
      {!tested.isFetching && tested.isError && <Trouble error={tested.error} />}
      {!tested.isFetching && tested.data && <Found tested={tested.data} secret={connection.secret} />}
      <div className="mt-4 flex justify-end gap-2">
        <Button disabled={tested.isFetching} onClick={() => tested.refetch()}>
          Test it again
        </Button>
        <Button look="primary" onClick={onClose}>
          Close
        </Button>
      </div>
    </Dialog>
  );
}

function Found({ tested, secret }: { tested: ConnectionTested; secret?: string }) {
  return (
    <div role="status" aria-label="What was found out">
      <p className={TONE[tested.reached]}>
        <Mark says={tested.reached} />
        {
          {
            yes: `It answers, within ${span(Math.max(1_000, tested.millis))}.`,
            no: "Nobody answers.",
            "cannot say": "It was not asked.",
          }[tested.reached]
        }
      </p>
      {tested.reached === "yes" && (
        <p className={TONE[tested.letIn]}>
          <Mark says={tested.letIn} />
          {
            {
              yes: secret ? `It lets us in with the secret ${secret}.` : "It lets us in.",
              no: "It does not let us in.",
              "cannot say": "Whether it lets us in, only a call would tell.",
            }[tested.letIn]
          }
        </p>
      )}
      {tested.why && <p className="mt-1">{tested.why}</p>}
      {tested.needs.length > 0 && (
        <>
          <h3 className="mt-3 mb-1 font-semibold">What its actions need there</h3>
          <ul>
            {tested.needs.map((n) => (
              <li key={n.action} className="border-t border-hairline py-1.5">
                <p className={TONE[n.says]}>
                  <Mark says={n.says} />
                  <Link to="/actions/$key" params={{ key: n.action }} className="link">
                    {n.name}
                  </Link>
                  : {{ yes: "it may", no: "it may not", "cannot say": "cannot say" }[n.says]}
                </p>
                <p className="pl-5 font-mono text-xs break-words text-ink-2">{n.needs}</p>
                {n.why && <p className="pl-5 text-sm text-ink-2">{n.why}</p>}
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

function Mark({ says }: { says: Says }) {
  return (
    <span aria-hidden className="inline-block w-5">
      {MARK[says]}
    </span>
  );
}
