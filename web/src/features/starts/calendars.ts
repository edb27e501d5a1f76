import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { CalendarView } from "../../api/types";

/** The working calendars, and what they are called: their keys, until that is known. */
export function useCalendars() {
  const all = useQuery({ queryKey: ["calendars"], queryFn: () => api.get<CalendarView[]>("/api/calendars") });
  const calendars = all.data?.map((c) => c.calendar) ?? [];
  return {
    calendars,
    isPending: all.isPending,
    nameOf: (key: string) => calendars.find((c) => c.key === key)?.name ?? key,
  };
}
