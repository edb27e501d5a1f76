import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../../api/client";
import type { ComparisonSide } from "../../api/types";
import { Button, Input, Select, Trouble } from "../../ui/kit";
import { moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { isTicket, whereOf } from "./pairing";

/** What a ticket, or a CI with its latest tickets, has to compare. */
export function useCaptures(where: string | undefined) {
  return useQuery({
    queryKey: ["captures", where],
    queryFn: () =>
      api.get<ComparisonSide[]>(
        where && isTicket(where)
          ? `/api/tickets/${where}/captures`
          : `/api/cis/${encodeURIComponent(where ?? "")}/captures`,
      ),
    enabled: where !== undefined && where !== "",
  });
}

/** One side: of which ticket or CI, and which of its measurements. */
export function SidePicker({
  title,
  value,
  start,
  onChange,
}: {
  title: string;
  value: string | undefined;
  /** Where to look while nothing is chosen. */
  start: string | undefined;
  onChange: (ref: string) => void;
}) {
  const now = useNow();
  const [looked, setLooked] = useState<string>();
  const where = looked ?? whereOf(value) ?? start;
  const [typed, setTyped] = useState<string>();
  const captures = useCaptures(where);
  const look = () => {
    if (typed?.trim()) setLooked(typed.trim());
    setTyped(undefined);
  };
  const options = (captures.data ?? []).map((c) => ({
    value: c.ref,
    label: c.name,
    detail: [
      c.at && moment(c.at, now),
      c.ticket !== where && c.ticket,
      c.held !== undefined && `${c.held} of ${c.rules} rules held`,
    ]
      .filter(Boolean)
      .join(" · "),
  }));
  if (where && !isTicket(where))
    options.unshift({ value: `ci:${where}`, label: `${where}, as it is now`, detail: "its attributes" });
  const chosen = captures.data?.find((c) => c.ref === value);
  return (
    <section aria-label={title} className="min-w-0 flex-1">
      <div className="flex items-end gap-2">
        <form
          className="w-36"
          onSubmit={(e) => {
            e.preventDefault();
            look();
          }}
        >
          <Input
            label={`${title}: ticket or CI`}
            value={typed ?? where ?? ""}
            onChange={(e) => setTyped(e.target.value)}
            onBlur={look}
          />
        </form>
        <div className="min-w-0 flex-1">
          <Select
            label={`${title}: what`}
            options={options}
            value={value}
            onChange={onChange}
            placeholder={
              captures.isPending && where ? "…" : options.length === 0 ? "nothing was measured there" : "choose…"
            }
          />
        </div>
      </div>
      <p className="mt-1 min-h-5 text-sm text-ink-2">
        {chosen?.ticket && chosen.at && (
          <>
            <Link
              to="/tickets/$number"
              params={{ number: chosen.ticket }}
              search={{ after: Math.max(1, (chosen.seq ?? 1) - 1) }}
              className="link"
            >
              {chosen.ticket}
            </Link>
            , entry {chosen.seq}, {moment(chosen.at, now)}
          </>
        )}
        {value?.startsWith("ci:") && "its attributes, as they are now"}
      </p>
      {captures.isError && <Trouble error={captures.error} onRetry={() => captures.refetch()} />}
    </section>
  );
}

/** Turns the two round. */
export function Swap({ onSwap, disabled }: { onSwap: () => void; disabled: boolean }) {
  return (
    <Button look="quiet" disabled={disabled} onClick={onSwap} className="mt-5 shrink-0">
      ⇄ Turn round
    </Button>
  );
}
