// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { CalendarView } from "../../api/types";
import { play, Refusal, show } from "../../testing/stage";
import { CalendarTrial } from "./CalendarTrial";

const OFFICE = {
  key: "office",
  name: "Office",
  zone: "Europe/Oslo",
  hours: { FRIDAY: [{ from: "08:00", to: "17:00" }] },
  holidays: [],
} as unknown as CalendarView["calendar"];

const TOLD = { from: "2026-11-27T15:00:00Z", openThen: true, until: "2026-12-01T13:00:00Z" };

const press = async () => fireEvent.click(await screen.findByText("When is it over?"));

it("tells when it is over, in the calendar's own zone, by the hours as they stand", async () => {
  const sent = play({ "POST /api/calendar-trials": TOLD });
  show(<CalendarTrial calendar={OFFICE} />);
  await press();
  await screen.findByText(/over Tue,? 1 Dec,? 14:00/);
  expect(sent[0]?.body).toEqual({ calendar: OFFICE, span: "4 working h" });
});

it("asks by Enter, which does not save the form around it", async () => {
  play({ "POST /api/calendar-trials": TOLD });
  const saved = vi.fn();
  show(
    <form onSubmit={saved}>
      <CalendarTrial calendar={OFFICE} />
    </form>,
  );
  expect(fireEvent.keyDown(await screen.findByLabelText("How long"), { key: "Enter" })).toBe(false);
  await screen.findByText(/over Tue/);
  expect(saved).not.toHaveBeenCalled();
});

it("says nothing of other values than those that stand there", async () => {
  play({ "POST /api/calendar-trials": TOLD });
  show(<CalendarTrial calendar={OFFICE} />);
  await press();
  await screen.findByText(/over Tue/);
  fireEvent.change(screen.getByLabelText("How long"), { target: { value: "2 working days" } });
  expect(screen.queryByText(/over Tue/)).toBeNull();
});

it("says that it is never over, and what cannot be read", async () => {
  const answers: Record<string, unknown> = {
    "POST /api/calendar-trials": { from: TOLD.from, openThen: false },
  };
  play(answers);
  show(<CalendarTrial calendar={{ ...OFFICE, key: "" as never }} />);
  await press();
  await screen.findByText(/never within 400 days/);
  answers["POST /api/calendar-trials"] = new Refusal(422, "'soon' is no length of time.");
  await press();
  await screen.findByText("'soon' is no length of time.");
});
