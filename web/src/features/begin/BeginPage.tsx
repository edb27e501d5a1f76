import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type ReactNode, useState } from "react";
import { api } from "../../api/client";
import type { CalendarView } from "../../api/types";
import { Button, Loading, PageHead, Trouble } from "../../ui/kit";
import { AccountDialog } from "../setup/AccountDialog";
import { PeopleCsvDialog } from "../setup/CsvDialog";
import { GroupDialog } from "../setup/GroupDialog";
import { ServiceDialog } from "../setup/ServiceDialog";
import { RaiseDialog } from "../tickets/RaiseDialog";
import { NewDialog, useGallery } from "../workflows/NewDialog";
import { type BeginStep, STEPS, useBeginning } from "./beginning";

type Opened = "account" | "csv" | "group" | "service" | "raise" | { template: string };

/** Leads from an empty installation to a first ticket that walked through a workflow (O3). Any step can be left for later. */
export function BeginPage() {
  const queries = useQueryClient();
  const beginning = useBeginning(true);
  const gallery = useGallery();
  const calendars = useQuery({
    queryKey: ["calendars"],
    queryFn: () => api.get<CalendarView[]>("/api/calendars"),
  });
  const [open, setOpen] = useState<Opened>();
  const close = () => {
    setOpen(undefined);
    queries.invalidateQueries({ queryKey: ["beginning"] });
  };
  const done = beginning.query.data;
  if (beginning.query.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={beginning.query.error} onRetry={() => beginning.query.refetch()} />
      </div>
    );
  if (!done) return <Loading what="how far you are" />;
  const next = beginning.left[0];
  const steps: Record<BeginStep, { title: string; says: string; act: ReactNode }> = {
    people: {
      title: "Who works here",
      says: "An account for each, with what they may do: ask, work on tickets, design workflows, set up.",
      act: (
        <>
          <Button onClick={() => setOpen("account")}>New account</Button>
          <Button onClick={() => setOpen("csv")}>Many, from CSV</Button>
        </>
      ),
    },
    mail: {
      title: "How people are told",
      says: "Whoever is asked or called in gets a mail, or a word in chat. Say from where, and try it by sending one to yourself.",
      act: (
        <Link
          to="/channels"
          className="inline-flex rounded-lg border border-pine bg-sheet px-3 py-1.5 font-semibold hover:bg-here"
        >
          Set mail and chat
        </Link>
      ),
    },
    groups: {
      title: "Which groups there are",
      says: "Work is offered to groups, and decided by groups. Two are enough to begin: one that does the work, one that decides.",
      act: <Button onClick={() => setOpen("group")}>New group</Button>,
    },
    services: {
      title: "What is looked after",
      says: "A service says how soon its tickets are to be restored, in which hours, and what belongs to it.",
      act: <Button onClick={() => setOpen("service")}>New service</Button>,
    },
    workflow: {
      title: "A first workflow",
      says: "Take one that ships with Dastur and change it to what you do, or begin with an empty route. It works once it is published.",
      act: (
        <ul className="grid w-full gap-2 sm:grid-cols-2">
          {(gallery.data ?? []).map((t) => (
            <li key={t.key}>
              <button
                type="button"
                className="flex h-full flex-col w-full rounded-lg border border-hairline bg-paper px-3 py-2 text-left align-top hover:border-pine"
                onClick={() => setOpen({ template: t.key })}
              >
                <span className="block font-semibold">{t.name}</span>
                <span className="block text-sm text-ink-2">{t.purpose}</span>
              </button>
            </li>
          ))}
        </ul>
      ),
    },
    ticket: {
      title: "A ticket that walks through it",
      says: "Raise one, start the workflow on it, and do what it asks, until it is closed. Its record then tells all of it.",
      act: <Button onClick={() => setOpen("raise")}>Raise a first ticket</Button>,
    },
  };
  return (
    <>
      <PageHead
        title="Begin"
        sub={
          beginning.left.length === 0
            ? "All that is needed is there"
            : `${STEPS.length - beginning.left.length} of ${STEPS.length} steps are behind you; each can be left for later`
        }
      />
      <div className="min-h-0 flex-1 overflow-auto p-5">
        <ol className="mx-auto flex max-w-3xl flex-col gap-3">
          {STEPS.map((key, i) => {
            const step = steps[key];
            const left = beginning.skipped.includes(key);
            return (
              <li
                key={key}
                aria-label={step.title}
                aria-current={key === next ? "step" : undefined}
                className={`rounded-xl border bg-sheet p-4 ${key === next ? "border-pine" : "border-hairline"}`}
              >
                <div className="flex items-baseline gap-3">
                  <span
                    aria-hidden
                    className={`w-5 shrink-0 text-right font-bold ${done[key] ? "text-well" : "text-ink-2"}`}
                  >
                    {done[key] ? "✓" : i + 1}
                  </span>
                  <h2 className="flex-1 font-bold">
                    {step.title}
                    {done[key] ? (
                      <span className="ml-2 text-sm font-normal text-well">there</span>
                    ) : (
                      left && <span className="ml-2 text-sm font-normal text-ink-2">left for later</span>
                    )}
                  </h2>
                  {!done[key] && (
                    <button
                      type="button"
                      className="link text-sm text-ink-2"
                      onClick={() => (left ? beginning.unskip(key) : beginning.skip(key))}
                    >
                      {left ? "do it now" : "leave it for later"}
                    </button>
                  )}
                </div>
                {!left && (key === next || !done[key]) && (
                  <div className="mt-1 pl-8">
                    <p className="text-ink-2">{step.says}</p>
                    {key === next && <div className="mt-3 flex flex-wrap gap-2">{step.act}</div>}
                  </div>
                )}
              </li>
            );
          })}
        </ol>
        {beginning.left.length === 0 && (
          <p className="mx-auto mt-5 max-w-3xl">
            This page is no longer needed and leaves the places on the left. Go on at your{" "}
            <Link to="/desk" className="link">
              Desk
            </Link>
            .
          </p>
        )}
      </div>
      {open === "account" && <AccountDialog onClose={close} />}
      {open === "csv" && <PeopleCsvDialog onClose={close} />}
      {open === "group" && <GroupDialog onClose={close} />}
      {open === "service" && calendars.data && <ServiceDialog calendars={calendars.data} onClose={close} />}
      {open === "raise" && <RaiseDialog open onClose={close} />}
      {typeof open === "object" && <NewDialog begin={open.template} onClose={close} />}
    </>
  );
}
