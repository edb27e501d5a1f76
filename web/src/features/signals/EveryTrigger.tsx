import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { EveryTrigger as Table } from "../../api/types";
import { Button, Trouble } from "../../ui/kit";
import { Looks } from "../ticket/Why";

/** How every trigger stands to a signal now; asked for when somebody wants to know (I26). */
export function EveryTrigger({ id }: { id: string }) {
  const [asked, setAsked] = useState(false);
  const table = useQuery({
    queryKey: ["every-trigger", id],
    queryFn: () => api.get<Table>(`/api/signals/${id}/triggers`),
    enabled: asked,
    retry: false,
  });
  if (!asked)
    return (
      <Button look="quiet" className="mt-2" onClick={() => setAsked(true)}>
        Every trigger, as it stands now…
      </Button>
    );
  if (table.isError) return <Trouble error={table.error} />;
  if (!table.data) return <p className="mt-2 text-sm text-ink-2">Looking at every trigger …</p>;
  const { looks, differs } = table.data;
  return (
    <section aria-label="Every trigger" className="mt-3">
      <h3 className="mb-1 font-semibold">
        {looks.length === 0
          ? "No trigger listens to signals"
          : `${looks.length === 1 ? "The one trigger" : `All ${looks.length} triggers`} that listen${looks.length === 1 ? "s" : ""} to signals`}
      </h3>
      <p className="mb-2 text-sm text-ink-2">
        As they, their CIs and services are now, if it came once more and turned its matter.
      </p>
      {differs.length > 0 && (
        <p role="status" className="mb-2 text-sm font-semibold text-soon">
          Otherwise than then: {differs.join(", ")}.
        </p>
      )}
      <Looks looks={looks} now />
    </section>
  );
}
