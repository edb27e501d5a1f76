import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { api } from "../../api/client";
import type { SignalLines, SourceView } from "../../api/types";
import { Button, Chip, Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { administers, useSession } from "../signin/session";
import { ByMail } from "./ByMail";
import { BySyslog } from "./BySyslog";
import { HowToSend } from "./HowToSend";
import { MappingEditor } from "./MappingEditor";
import { Rules } from "./Rules";
import { WhatCame } from "./WhatCame";

/** How one sends to it, each way by itself. */
function Sending(props: { view: SourceView; may: boolean }) {
  switch (props.view.source.proof) {
    case "address":
      return <BySyslog {...props} />;
    case "mail":
      return <ByMail {...props} />;
    case "token":
    case "signature":
      return <HowToSend {...props} />;
  }
}

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
            {line.silentSince && (
              <span title={exact(line.silentSince)}>
                <Chip tone="late">silent</Chip>
              </span>
            )}
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
          <Sending view={source.data} may={may} />
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
