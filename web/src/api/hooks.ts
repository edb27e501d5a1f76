import { type UseQueryResult, useQuery, useQueryClient } from "@tanstack/react-query";
import { api } from "./client";
import type { Catalogue, Desk, Directory, Readable, RecordView, Ticket, Workflow, WorkflowSummary } from "./types";

/** Read again every now and then too: who loses a task is not told of a ticket that they may no longer know of. */
export const useDesk = () =>
  useQuery({ queryKey: ["desk"], queryFn: () => api.get<Desk>("/api/desk"), refetchInterval: 60_000 });

export const useDirectory = () => {
  const queries = useQueryClient();
  return useQuery({
    queryKey: ["directory"],
    queryFn: () => api.getAgain<Directory>("/api/directory", queries.getQueryData(["directory"])),
    staleTime: 60_000,
    // What has not changed is the same object already, and ten thousand names need not be compared.
    structuralSharing: false,
  });
};

export const useTicket = (number: string | undefined): UseQueryResult<Ticket> =>
  useQuery({
    queryKey: ["ticket", number],
    queryFn: () => api.get<Ticket>(`/api/tickets/${number}`),
    enabled: number !== undefined,
  });

/**
 * A long record comes in parts, and of one that is here already only what follows (B10): entries never change, but for those whose
 * content was taken away, which an entry of its own says.
 */
export async function wholeRecord(number: string, before?: RecordView): Promise<RecordView> {
  const kept = before?.unbroken ? before.entries : [];
  const last = kept.at(-1)?.seq;
  let part = await api.get<RecordView>(`/api/tickets/${number}/record${last === undefined ? "" : `?after=${last}`}`);
  const entries = [...kept, ...part.entries];
  while (part.more) {
    part = await api.get<RecordView>(`/api/tickets/${number}/record?after=${entries.at(-1)?.seq ?? 0}`);
    entries.push(...part.entries);
  }
  const asKept = part.unbroken && entries.length === part.total;
  const anew = last !== undefined && (!asKept || entries.slice(kept.length).some((e) => e.kind === "redacted"));
  return anew ? wholeRecord(number) : { ...part, entries };
}

export const useRecord = (number: string, enabled: boolean) => {
  const queries = useQueryClient();
  return useQuery({
    queryKey: ["record", number],
    queryFn: () => wholeRecord(number, queries.getQueryData<RecordView>(["record", number])),
    enabled,
  });
};

export const useWorkflows = () =>
  useQuery({ queryKey: ["workflows"], queryFn: () => api.get<WorkflowSummary[]>("/api/workflows") });

export const useWorkflow = (key: string) =>
  useQuery({ queryKey: ["workflow", key], queryFn: () => api.get<Workflow>(`/api/workflows/${key}`) });

export const useCatalogue = () =>
  useQuery({ queryKey: ["catalogue"], queryFn: () => api.get<Catalogue>("/api/catalogue"), staleTime: 30_000 });

type Named = { id: string; name: string };

const byId = new WeakMap<Named[], Map<string, string>>();

/** A page of a hundred rows says hundreds of names, of ten thousand. */
function namesOf(list: Named[]): Map<string, string> {
  const known = byId.get(list) ?? new Map(list.map((x) => [x.id, x.name]));
  byId.set(list, known);
  return known;
}

/** Names for ids; an id that is not known stands for itself. */
export function useNames() {
  const directory = useDirectory().data;
  const find = (list: Named[] | undefined, id: string | undefined) =>
    (list && id !== undefined ? namesOf(list).get(id) : undefined) ?? id ?? "";
  return {
    person: (id?: string) => find(directory?.people, id),
    group: (id?: string) => find(directory?.groups, id),
    service: (id?: string) => find(directory?.services, id),
    source: (key?: string) => directory?.sources?.find((s) => s.key === key)?.name ?? key ?? "",
    rota: (key?: string) => directory?.rotas.find((r) => r.key === key)?.name ?? key ?? "",
    /** How people call a field of the ticket or the CI, by its path. */
    field: (path: string) => {
      const name = path.slice(path.indexOf(".") + 1);
      const fields = path.startsWith("ticket.")
        ? directory?.fields
        : path.startsWith("ci.")
          ? directory?.ciFields
          : undefined;
      return fields?.find((f) => f.name === name)?.label;
    },
    directory,
  };
}

/** What can be read by hand on a ticket. */
export const useReadable = () =>
  useQuery({ queryKey: ["readable"], queryFn: () => api.get<Readable[]>("/api/readings"), staleTime: 60_000 });
