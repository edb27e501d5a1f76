import { useEffect, useState } from "react";
import { useTicket } from "../../api/hooks";
import { Button } from "../../ui/kit";
import { type Given, useGiven } from "./takeBack";
import { useSend } from "./useSend";

/** For ten seconds after an outcome was given: what was given, and taking it back. */
export function TakeBack() {
  const { given } = useGiven();
  return given ? <Bar key={given.visit} given={given} /> : null;
}

function Bar({ given }: { given: Given }) {
  const { forget } = useGiven();
  const [left, setLeft] = useState(() => Math.ceil((given.until - Date.now()) / 1000));
  const send = useSend(given.ticket, forget);
  const { isError } = send;
  // Offered only while it would be taken: a machine that began, or somebody who answered, ends it at once.
  const may = useTicket(given.ticket).data?.mayTakeBack.includes(given.visit);
  useEffect(() => {
    const timer = setInterval(() => {
      const seconds = Math.ceil((given.until - Date.now()) / 1000);
      setLeft(seconds);
      if (seconds <= (isError ? -5 : 0)) forget();
    }, 250);
    return () => clearInterval(timer);
  }, [given, forget, isError]);
  return (
    <div
      role="status"
      className="fixed inset-x-3 bottom-16 z-20 mx-auto flex max-w-xl items-center gap-3 rounded-xl border border-hairline bg-sheet px-4 py-2.5 shadow-lg md:bottom-4"
    >
      <span className="min-w-0 flex-1">
        {isError ? (
          <span className="text-late">{send.error.message}</span>
        ) : (
          <>
            <strong>{given.outcome}</strong> <span className="text-ink-2">for “{given.task}”</span>
          </>
        )}
      </span>
      {!isError && may && (
        <Button
          disabled={send.isPending || left <= 0}
          onClick={() => send.mutate({ path: `/api/tasks/${given.visit}/take-back` })}
        >
          Take it back ({Math.max(0, left)} s)
        </Button>
      )}
    </div>
  );
}
