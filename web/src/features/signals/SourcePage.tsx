import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { SignalLines, SourceView } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Chip, Empty, Loading, PageHead, Select, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { administers, useSession } from "../signin/session";
import { BySyslog } from "./BySyslog";
import { HowToSend } from "./HowToSend";
import { MappingEditor } from "./MappingEditor";
import { WhatCame } from "./WhatCame";

export type SourceTab = "send" | "came" | "means";

const TABS: [SourceTab, string][] = [
  ["send", "How to send"],
  ["came", "What came"],
  ["means", "What it means"],
];

/** A source: how to send to it, what came, and what it means. */
export function SourcePage() {
  const { key } = useParams({ from: "/sources/$key" });
  const { tab = "came" } = useSearch({ from: "/sources/$key" });
  const navigate = useNavigate();
  const now = useNow();
  const { session } = useSession();
  const source = useQuery({
    queryKey: ["source", key],
    queryFn: () => api.get<SourceView>(`/api/sources/${key}`),
    refetchInterval: 10_000,
  });
  const lines = useQuery({
    queryKey: ["signals-of-source", key],
    queryFn: () => api.get<SignalLines>(`/api/signals?source=${key}`),
    refetchInterval: tab === "came" ? 3_000 : false,
  });
  if (source.isPending) return <Loading what="the source" />;
  if (source.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={source.error}>
          <Link to="/sources" className="link">
            All sources
          </Link>
        </Trouble>
      </div>
    );
  const { line } = source.data;
  const may = administers(session);
  const refused = source.data.refused.reduce((n, r) => n + r.count, 0);
  return (
    <>
      <PageHead
        title={line.name}
        sub={
          <span className="flex flex-wrap gap-x-1.5">
            {!line.open && <Chip tone="late">shut</Chip>}
            <span>{line.day} in the last 24 h</span>
            {line.notUnderstood > 0 && <strong className="text-late">· {line.notUnderstood} not understood</strong>}
            {refused > 0 && <strong className="text-soon">· {refused} refused of late</strong>}
            <span title={line.last && exact(line.last)}>
              · {line.last ? `last ${moment(line.last, now)}` : "nothing has come yet"}
            </span>
          </span>
        }
      >
        {TABS.map(([id, label]) => (
          <Button
            key={id}
            look={tab === id ? "plain" : "quiet"}
            aria-current={tab === id ? "page" : undefined}
            onClick={() => navigate({ to: "/sources/$key", params: { key }, search: { tab: id }, replace: true })}
          >
            {label}
          </Button>
        ))}
        <Link to="/sources" className="link self-center">
          All sources
        </Link>
      </PageHead>
      {tab === "send" && (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by keys
        <div tabIndex={0} className="min-h-0 flex-1 overflow-auto p-5">
          {source.data.source.proof === "address" ? (
            <BySyslog view={source.data} may={may} />
          ) : (
            <HowToSend view={source.data} may={may} />
          )}
          <Rules view={source.data} may={may} />
        </div>
      )}
      {tab === "came" && (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by keys
        <div tabIndex={0} className="min-h-0 flex-1 overflow-auto p-5">
          {lines.isPending && <Loading what="what came" />}
          {lines.isError && <Trouble error={lines.error} onRetry={() => lines.refetch()} />}
          {lines.data && <WhatCame source={key} lines={lines.data} refused={source.data.refused} />}
        </div>
      )}
      {tab === "means" &&
        (lines.data ? (
          <MappingEditor key={key} view={source.data} samples={lines.data.lines} may={may} />
        ) : (
          <Empty title="A moment">What came is being read.</Empty>
        ))}
    </>
  );
}

/** Whether it is listened to, and what becomes of faults that no trigger takes up. */
function Rules({ view, may }: { view: SourceView; may: boolean }) {
  const names = useNames();
  const queries = useQueryClient();
  const { source } = view;
  const save = useMutation({
    mutationFn: (change: Partial<SourceView["source"]>) => {
      const { key, ...body } = { ...source, ...change };
      return api.put(`/api/sources/${key}`, body);
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["source", source.key] }),
  });
  return (
    <section aria-label="What becomes of it" className="mt-8 flex max-w-xl flex-col gap-3">
      <h2 className="font-bold">What becomes of it</h2>
      <Check
        label="Listen to it: while it is shut, senders are told so and nothing is taken"
        checked={source.open}
        disabled={!may || save.isPending}
        onChange={(open) => save.mutate({ open })}
      />
      <Select
        label="Faults that no trigger takes up"
        disabled={!may || save.isPending}
        value={source.otherwise}
        onChange={(otherwise) => save.mutate({ otherwise: otherwise as typeof source.otherwise })}
        options={[
          { value: "kept", label: "are kept and shown under Signals, and open nothing" },
          { value: "incident", label: "open an incident" },
        ]}
      />
      <Check
        label="Tell its faults in planned work too: else what a change in its window explains opens nothing"
        checked={source.neverQuiet}
        disabled={!may || save.isPending}
        onChange={(neverQuiet) => save.mutate({ neverQuiet })}
      />
      <Select
        label="Group that gets the incidents"
        disabled={!may || save.isPending}
        value={source.group ?? ""}
        onChange={(group) => save.mutate({ group: group === "" ? undefined : group })}
        options={[
          { value: "", label: "nobody in particular" },
          ...(names.directory?.groups ?? []).map((g) => ({ value: g.id, label: g.name })),
        ]}
      />
      {save.isError && <Trouble error={save.error} />}
    </section>
  );
}
