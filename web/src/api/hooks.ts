import { type UseQueryResult, useQuery } from "@tanstack/react-query";
import { api } from "./client";
import type { Catalogue, Desk, Directory, RecordView, Ticket, Workflow, WorkflowSummary } from "./types";

/** Read again every now and then too: who loses a task is not told of a ticket that they may no longer know of. */
export const useDesk = () =>
  useQuery({ queryKey: ["desk"], queryFn: () => api.get<Desk>("/api/desk"), refetchInterval: 60_000 });

export const useDirectory = () =>
  useQuery({ queryKey: ["directory"], queryFn: () => api.get<Directory>("/api/directory"), staleTime: 60_000 });

export const useTicket = (number: string | undefined): UseQueryResult<Ticket> =>
  useQuery({
    queryKey: ["ticket", number],
    queryFn: () => api.get<Ticket>(`/api/tickets/${number}`),
    enabled: number !== undefined,
  });

/** A long record comes in parts. */
async function wholeRecord(number: string): Promise<RecordView> {
  let part = await api.get<RecordView>(`/api/tickets/${number}/record`);
  const entries = [...part.entries];
  while (part.more) {
    part = await api.get<RecordView>(`/api/tickets/${number}/record?after=${entries.at(-1)?.seq ?? 0}`);
    entries.push(...part.entries);
  }
  return { ...part, entries };
}

export const useRecord = (number: string, enabled: boolean) =>
  useQuery({
    queryKey: ["record", number],
    queryFn: () => wholeRecord(number),
    enabled,
  });

export const useWorkflows = () =>
  useQuery({ queryKey: ["workflows"], queryFn: () => api.get<WorkflowSummary[]>("/api/workflows") });

export const useWorkflow = (key: string) =>
  useQuery({ queryKey: ["workflow", key], queryFn: () => api.get<Workflow>(`/api/workflows/${key}`) });

export const useCatalogue = () =>
  useQuery({ queryKey: ["catalogue"], queryFn: () => api.get<Catalogue>("/api/catalogue"), staleTime: 30_000 });

/** Names for ids; an id that is not known stands for itself. */
export function useNames() {
  const directory = useDirectory().data;
  const find = (list: { id: string; name: string }[] | undefined, id: string | undefined) =>
    list?.find((x) => x.id === id)?.name ?? id ?? "";
  return {
    person: (id?: string) => find(directory?.people, id),
    group: (id?: string) => find(directory?.groups, id),
    service: (id?: string) => find(directory?.services, id),
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
