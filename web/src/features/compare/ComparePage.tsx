import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { Comparison } from "../../api/types";
import { Check } from "../../ui/Check";
import { Empty, Loading, PageHead, Trouble } from "../../ui/kit";
import { valueWords } from "../ticket/words";
import { Differences } from "./Differences";
import { type Compared, likelyBefore, likelyPair, whereOf } from "./pairing";
import { SidePicker, Swap, useCaptures } from "./SidePicker";

const chosenKeys = (text: string | undefined): Record<string, string> => {
  try {
    return text ? JSON.parse(text) : {};
  } catch {
    return {};
  }
};

/** How much differs, and of how much nobody can say. */
function howMuch(things: number, differing: number, unknown: number): string {
  if (things === 0) return "There is nothing to compare.";
  if (differing + unknown === 0)
    return things === 1 ? "It is the same on both sides." : `Nothing differs: all ${things} are the same.`;
  const of = unknown === 0 ? "" : `, ${unknown} cannot be said: only one side has a value`;
  return `${differing} of ${things} ${things === 1 ? "thing" : "things"} ${differing === 1 ? "differs" : "differ"}${of}.`;
}

/** Two measurements side by side: of one run or two, of checks, of CIs. */
export function ComparePage() {
  const search = useSearch({ from: "/compare" });
  const navigate = useNavigate({ from: "/compare" });
  const go = (next: Partial<Compared>) => navigate({ search: { ...search, ...next }, replace: true });
  const names = useNames();
  const start = search.of ?? whereOf(search.after) ?? whereOf(search.before);
  const captures = useCaptures(search.before && search.after ? undefined : start);
  const proposed = (() => {
    const { data } = captures;
    if (!data || search.of?.startsWith("ci:")) return {};
    const after = data.find((c) => c.ref === search.after);
    if (after) return { before: likelyBefore(data, after)?.ref, after: after.ref };
    const pair = likelyPair(data);
    return { before: pair.before?.ref, after: pair.after?.ref };
  })();
  const before = search.before ?? proposed.before;
  const after = search.after ?? proposed.after;
  const keys = chosenKeys(search.keys);
  const comparison = useQuery({
    queryKey: ["comparison", before, after, search.keys],
    queryFn: () =>
      api.get<Comparison>(
        `/api/comparisons?before=${encodeURIComponent(before ?? "")}&after=${encodeURIComponent(after ?? "")}${search.keys ? `&keys=${encodeURIComponent(search.keys)}` : ""}`,
      ),
    enabled: before !== undefined && after !== undefined,
    placeholderData: (old) => old,
  });
  const cis = before?.startsWith("ci:") && after?.startsWith("ci:");
  const ofCi = (name: string) =>
    name === "service" ? "Service" : names.directory?.ciFields.find((f) => f.name === name)?.label;
  const label = (name: string) =>
    (cis && ofCi(name)) || comparison.data?.after.labels[name] || comparison.data?.before.labels[name] || name;
  /** Groups and services by their names. */
  const named = (name: string, value: unknown) =>
    typeof value !== "string"
      ? undefined
      : name === "owner"
        ? names.group(value)
        : name === "service"
          ? names.service(value)
          : undefined;
  const data = comparison.data;
  const things = data
    ? data.sides.rules.length + data.sides.values.length + data.sides.lists.length + data.sides.tables.length
    : 0;
  return (
    <>
      <PageHead title="Side by side" sub="What differs between two measurements, or two CIs" />
      <div className="min-h-0 flex-1 overflow-auto p-5">
        <div className="mb-4 flex max-w-6xl flex-wrap items-start gap-4 sm:flex-nowrap">
          <SidePicker title="Before" value={before} start={start} onChange={(ref) => go({ before: ref, after })} />
          <Swap disabled={!before || !after} onSwap={() => go({ before: after, after: before })} />
          <SidePicker title="After" value={after} start={start} onChange={(ref) => go({ after: ref, before })} />
        </div>
        {(!before || !after) && !captures.isLoading && (
          <Empty title="Choose what stands on each side">
            Measurements, checks and filled-in forms of a ticket, or a CI as it is now.
          </Empty>
        )}
        {before && after && comparison.isPending && <Loading what="the comparison" />}
        {comparison.isError && <Trouble error={comparison.error} onRetry={() => comparison.refetch()} />}
        {data && before && after && !comparison.isError && (
          <div className="max-w-6xl">
            <div className="mb-4 flex flex-wrap items-center gap-4">
              <p role="status" className="text-base font-semibold">
                {howMuch(things, data.differing, data.unknown)}
              </p>
              <Check
                label="Show what is the same, too"
                checked={search.all ?? false}
                onChange={(all) => go({ all: all || undefined })}
              />
            </div>
            <Differences
              sides={data.sides}
              all={search.all ?? false}
              label={label}
              heads={cis ? [whereOf(before) ?? "", whereOf(after) ?? ""] : ["Before", "After"]}
              words={(name, value) => (cis ? (named(name, value) ?? valueWords(value)) : valueWords(value))}
              keys={keys}
              onKey={(table, column) => go({ keys: JSON.stringify({ ...keys, [table]: column }) })}
            />
          </div>
        )}
      </div>
    </>
  );
}
