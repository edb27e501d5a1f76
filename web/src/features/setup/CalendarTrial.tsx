import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError } from "../../api/client";
import type { CalendarView, CalendarTrial as Told } from "../../api/types";
import { Button, Input } from "../../ui/kit";
import { When } from "../../ui/When";
import { instantOf } from "../ticket/fieldValues";

/** When something is due by a calendar as it stands in the dialog, before anything counts by it. */
export function CalendarTrial({ calendar }: { calendar: CalendarView["calendar"] }) {
  const [span, setSpan] = useState("4 working h");
  const [from, setFrom] = useState("");
  const question = {
    calendar: { ...calendar, key: calendar.key || "trial" },
    span,
    ...(from ? { from: instantOf(from) } : {}),
  };
  const trial = useMutation({
    mutationFn: (asked: typeof question) => api.post<Told>("/api/calendar-trials", asked),
  });
  // What was told of other hours does not stand beside these.
  const told = JSON.stringify(trial.variables) === JSON.stringify(question) ? trial.data : undefined;
  const at = (instant: string) =>
    new Intl.DateTimeFormat("en-GB", {
      timeZone: calendar.zone,
      weekday: "short",
      day: "numeric",
      month: "short",
      hour: "2-digit",
      minute: "2-digit",
    }).format(new Date(instant));
  return (
    <fieldset
      className="rounded-lg border border-hairline p-3"
      onKeyDown={(e) => {
        // It stands inside a form: Enter here asks, and saves nothing.
        if (e.key !== "Enter" || !(e.target instanceof HTMLInputElement)) return;
        e.preventDefault();
        trial.mutate(question);
      }}
    >
      <legend className="px-1 text-sm font-semibold text-ink-2">Try it</legend>
      <div className="grid items-start gap-3 sm:grid-cols-[1fr_1fr_auto]">
        <Input label="How long" value={span} onChange={(e) => setSpan(e.target.value)} />
        <When label="Beginning" help="empty for now" value={from} onChange={setFrom} />
        <Button
          className="sm:mt-[22px]"
          disabled={trial.isPending || span.trim() === ""}
          onClick={() => trial.mutate(question)}
        >
          When is it over?
        </Button>
      </div>
      <p role="status" className="mt-2 min-h-5">
        {trial.isError && (
          <span className="text-late">
            {trial.error instanceof ProblemError ? trial.error.problem.detail : "The server could not be asked."}
          </span>
        )}
        {told && (
          <>
            Begun {at(told.from)}
            {told.openThen ? "" : ", when it is closed"}:{" "}
            {told.until ? (
              <strong>over {at(told.until)}</strong>
            ) : (
              <strong className="text-late">never within 400 days; it is hardly ever open</strong>
            )}{" "}
            <span className="text-ink-2">({calendar.zone})</span>
          </>
        )}
      </p>
    </fieldset>
  );
}
