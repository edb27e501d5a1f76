import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Ladder, Reached } from "../../api/types";
import { Dialog, Loading, Select, Trouble } from "../../ui/kit";
import { clock, day } from "../../ui/time";
import { When } from "../../ui/When";
import { deedWords } from "../ticket/words";

const local = (at: Date) => new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);

function tonight(): Date {
  const at = new Date(Date.now() + 86_400_000);
  at.setHours(3, 0, 0, 0);
  return at;
}

/** Who a ladder would reach, and when, if it began at a moment: tonight at three, for instance. */
export function ReachDialog({ ladder, onClose }: { ladder: Ladder; onClose: () => void }) {
  const names = useNames();
  const [from, setFrom] = useState(local(tonight()));
  const [service, setService] = useState("");
  const at = Number.isNaN(Date.parse(from)) ? undefined : new Date(from).toISOString();
  const reach = useQuery({
    queryKey: ["reach", ladder.key, at, service],
    queryFn: () =>
      api.get<Reached[]>(
        `/api/ladders/${ladder.key}/reach?from=${encodeURIComponent(at ?? "")}${service && `&service=${service}`}`,
      ),
    enabled: at !== undefined,
    placeholderData: (before) => before,
  });
  return (
    <Dialog title={`Who would be reached: ${ladder.name}`} open onClose={onClose} wide>
      <div className="mb-3 grid gap-3 sm:grid-cols-2">
        <When
          label="If it began"
          value={from}
          onChange={(picked) => setFrom(picked)}
          help="Working time counts by the service's hours."
        />
        <Select
          label="For the service"
          value={service}
          onChange={(picked) => setService(picked)}
          options={[
            { value: "", label: "any, usual hours" },
            ...(names.directory?.services ?? []).map((s) => ({ value: s.id, label: s.name })),
          ]}
        />
      </div>
      {reach.isPending && <Loading what="who it reaches" />}
      {reach.isLoadingError && <Trouble error={reach.error} />}
      <ol>
        {(reach.data ?? []).map((r, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rungs have no other name than their place
          <li key={i} className="flex gap-3 border-b border-hairline py-1.5">
            <span className="w-32 shrink-0 text-ink-2">
              {day(r.at)} {clock(r.at)}
            </span>
            <span>
              {deedWords(r.deed, names)}
              {r.people.length > 0 && (
                <span className="block font-semibold">{r.people.map((p) => names.person(p)).join(", ")}</span>
              )}
              {r.gap && <span className="block font-semibold text-late">Nobody is on call then.</span>}
              {r.people.length === 0 && !r.gap && ["tell", "add", "hand over"].includes(r.deed.does) && (
                <span className="block text-ink-2">whoever the ticket names</span>
              )}
            </span>
          </li>
        ))}
      </ol>
    </Dialog>
  );
}
