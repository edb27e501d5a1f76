import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { CalendarView, CiHit, ServiceOf, Services } from "../../api/types";
import { Button, Chip, Empty, Input, Loading, PageHead, Trouble } from "../../ui/kit";
import { designs, useSession } from "../signin/session";
import { CalendarDialog } from "./CalendarDialog";
import { CiDialog } from "./CiDialog";
import { CsvDialog } from "./CsvDialog";
import { FieldsDialog } from "./FieldsDialog";
import { DAYS, hoursWords } from "./hours";
import { ServiceDialog } from "./ServiceDialog";

type Making = {
  service?: ServiceOf | "new";
  calendar?: CalendarView["calendar"] | "new";
  ci?: boolean;
  csv?: boolean;
  fields?: boolean;
};

/** Services, what they are made of, and the hours that count for them. */
export function ServicesPage() {
  const { session } = useSession();
  const names = useNames();
  const navigate = useNavigate();
  const may = designs(session);
  const [text, setText] = useState("");
  const [open, setOpen] = useState<Making>({});
  const search = useDeferredValue(text);
  const services = useQuery({ queryKey: ["services"], queryFn: () => api.get<Services>("/api/services") });
  const calendars = useQuery({ queryKey: ["calendars"], queryFn: () => api.get<CalendarView[]>("/api/calendars") });
  const cis = useQuery({
    queryKey: ["cis", "list", search],
    queryFn: () => api.get<CiHit[]>(`/api/cis?text=${encodeURIComponent(search)}`),
    placeholderData: (before) => before,
  });
  const queries = useQueryClient();
  const usual = useMutation({
    mutationFn: (calendar: string) => api.put("/api/usual-calendar", { calendar }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["services"] }),
  });
  const trouble = services.error ?? calendars.error;
  if (trouble)
    return (
      <div className="p-6">
        <Trouble error={trouble} onRetry={() => Promise.all([services.refetch(), calendars.refetch()])} />
      </div>
    );
  if (!services.data || !calendars.data) return <Loading what="services" />;
  const close = () => setOpen({});
  return (
    <>
      <PageHead title="Services" sub={`${services.data.services.length} services and what they are made of`}>
        {may && (
          <>
            <Button onClick={() => setOpen({ fields: true })}>Fields…</Button>
            <Button onClick={() => setOpen({ csv: true })}>CIs from CSV…</Button>
            <Button onClick={() => setOpen({ ci: true })}>New CI</Button>
            <Button look="primary" onClick={() => setOpen({ service: "new" })}>
              New service
            </Button>
          </>
        )}
      </PageHead>
      <div className="grid min-h-0 flex-1 content-start gap-8 overflow-auto p-5 lg:grid-cols-[1fr_1fr_300px]">
        <section aria-label="Services">
          <h2 className="mb-2 flex h-8 items-center font-bold">Services</h2>
          <ul>
            {services.data.services.map((s) => (
              <li key={s.id} className="flex items-baseline gap-2 border-b border-hairline py-1.5">
                <span className="min-w-0 flex-1">
                  <span className="font-semibold">{s.name}</span>
                  <span className="block text-xs text-ink-2">
                    {s.owner ? names.group(s.owner) : "nobody looks after it"} ·{" "}
                    {calendars.data.find((c) => c.calendar.key === s.calendar)?.calendar.name ?? "the usual hours"}
                  </span>
                </span>
                {s.passengers && <Chip>passengers</Chip>}
                {may && (
                  <Button look="quiet" aria-label={`Change ${s.name}`} onClick={() => setOpen({ service: s })}>
                    Change
                  </Button>
                )}
              </li>
            ))}
          </ul>
        </section>
        <section aria-label="CIs">
          <h2 className="mb-2 flex h-8 items-center font-bold">What they are made of</h2>
          <Input
            label="Find a CI"
            hideLabel
            type="search"
            value={text}
            onChange={(e) => setText(e.target.value)}
            placeholder="Find a CI by id or name"
          />
          {cis.isPending && <Loading what="CIs" />}
          {cis.isLoadingError && <Trouble error={cis.error} onRetry={() => cis.refetch()} />}
          {cis.data?.length === 0 && <Empty title="No CI fits">Search for a part of its id or name.</Empty>}
          <ul className="mt-2">
            {(cis.data ?? []).map((c) => (
              <li key={c.id} className="flex items-baseline gap-2 border-b border-hairline py-1">
                <Link to="/cis/$id" params={{ id: c.id }} className="link min-w-0 flex-1 truncate">
                  {c.name}
                </Link>
                <span className="text-xs text-ink-2">{c.kind}</span>
                <span className="font-mono text-xs">{c.id}</span>
              </li>
            ))}
          </ul>
          {cis.data?.length === 20 && <p className="mt-1 text-xs text-ink-2">The first 20; type to find others.</p>}
        </section>
        <section aria-label="Working calendars">
          <div className="mb-2 flex h-8 items-center justify-between">
            <h2 className="font-bold">Working calendars</h2>
            {may && (
              <Button look="quiet" onClick={() => setOpen({ calendar: "new" })}>
                New calendar
              </Button>
            )}
          </div>
          {calendars.data.map(({ calendar: c, openNow }) => (
            <div key={c.key} className="mb-4">
              <h3 className="flex flex-wrap items-center gap-2 font-semibold">
                {c.name} <Chip tone={openNow ? "well" : "plain"}>{openNow ? "open now" : "closed now"}</Chip>
                {may && (
                  <Button look="quiet" aria-label={`Change ${c.name}`} onClick={() => setOpen({ calendar: c })}>
                    Change
                  </Button>
                )}
              </h3>
              <p className="text-xs text-ink-2">
                {c.zone}
                {services.data.defaultCalendar === c.key
                  ? " · the usual hours, where a service names none"
                  : may && (
                      <>
                        {" · "}
                        <button
                          type="button"
                          className="link"
                          aria-label={`make these the usual hours: ${c.name}`}
                          disabled={usual.isPending}
                          onClick={() => usual.mutate(c.key)}
                        >
                          make these the usual hours
                        </button>
                      </>
                    )}
              </p>
              {usual.isError && usual.variables === c.key && <Trouble error={usual.error} />}
              {DAYS.filter((d) => c.hours[d]).map((d) => (
                <p key={d} className="flex gap-3 text-sm">
                  <span className="w-8 shrink-0 text-ink-2">{d.charAt(0) + d.slice(1, 3).toLowerCase()}</span>
                  {hoursWords(c.hours[d] ?? [])}
                </p>
              ))}
              {c.holidays.length > 0 && (
                <p className="text-xs text-ink-2">
                  {c.holidays.length === 1 ? "1 holiday" : `${c.holidays.length} holidays`}
                </p>
              )}
            </div>
          ))}
        </section>
      </div>
      {open.service && (
        <ServiceDialog
          service={open.service === "new" ? undefined : open.service}
          calendars={calendars.data}
          onClose={close}
        />
      )}
      {open.calendar && (
        <CalendarDialog calendar={open.calendar === "new" ? undefined : open.calendar} onClose={close} />
      )}
      {open.ci && <CiDialog onClose={close} onSaved={(id) => navigate({ to: "/cis/$id", params: { id } })} />}
      {open.csv && <CsvDialog onClose={close} />}
      {open.fields && <FieldsDialog onClose={close} />}
    </>
  );
}
