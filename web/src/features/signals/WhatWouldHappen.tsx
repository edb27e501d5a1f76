import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { api, isUnsent } from "../../api/client";
import type { Accepted, Mapping, Trial } from "../../api/types";
import { Button, Loading, Trouble } from "../../ui/kit";
import { designs, useSession } from "../signin/session";
import type { Tried } from "./KeptSamples";
import { Told } from "./Told";
import { foreseenWords } from "./words";

/** What would become of a sample if it came now, by a mapping that need not be in use yet. Nothing is written by asking. */
export function WhatWouldHappen({ source, sample, mapping }: { source: string; sample: Tried; mapping: Mapping }) {
  const [open, setOpen] = useState(false);
  const { session } = useSession();
  const trial = useQuery({
    queryKey: ["trial", source, sample, mapping],
    queryFn: () => api.post<Trial>(`/api/sources/${source}/trials`, { mapping, ...sample }),
    enabled: open,
    placeholderData: keepPreviousData,
    retry: false,
    // Tickets and matters move on: what was foreseen is of that moment.
    staleTime: 0,
  });
  const { foreseen, reading } = trial.data ?? {};
  return (
    <section aria-label="What would happen" className="mt-4">
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        What would happen if it came now?
      </Button>
      {open && (
        <div className="mt-3 max-w-2xl">
          {trial.isPending && <Loading what="what would happen" />}
          {trial.isError && <Trouble error={trial.error} onRetry={() => trial.refetch()} />}
          {reading && !foreseen && (
            <p className="text-late">It would stand here as not understood: {reading.problem}</p>
          )}
          {foreseen && (
            <>
              <p role="status" className="mb-2 font-semibold">
                {foreseenWords(foreseen)}
              </p>
              <Told view={foreseen} />
              <p className="mt-2 text-xs text-ink-2">Nothing has happened: this only says what would.</p>
              {designs(session) && <TestIt source={source} sample={sample} mapping={mapping} />}
            </>
          )}
        </div>
      )}
    </section>
  );
}

/** Has it done for real, on a ticket that is a test. */
function TestIt({ source, sample, mapping }: { source: string; sample: Tried; mapping: Mapping }) {
  const navigate = useNavigate();
  const [key, setKey] = useState(() => crypto.randomUUID());
  const test = useMutation({
    mutationFn: () => api.post<Accepted>(`/api/sources/${source}/tests`, { mapping, ...sample }, key),
    onSuccess: (opened) => navigate({ to: "/tickets/$number", params: { number: opened.ticket } }),
    onError: (error) => !isUnsent(error) && setKey(crypto.randomUUID()),
  });
  return (
    <div className="mt-4 border-t border-hairline pt-3">
      <Button disabled={test.isPending} onClick={() => test.mutate()}>
        Open a test
      </Button>
      <p className="mt-1 text-sm text-ink-2">
        Opens its ticket as a test, as if nothing else were there: in no list, with you as everybody who is asked or
        told. What would change something elsewhere waits until you say so. It ends after 24 hours.
      </p>
      {test.isError && <Trouble error={test.error} />}
    </div>
  );
}
