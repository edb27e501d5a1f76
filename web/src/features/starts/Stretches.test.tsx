// @vitest-environment jsdom
import { fireEvent, screen, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Stretch } from "../../api/types";
import { play, show } from "../../testing/stage";
import { Stretches } from "./Stretches";

const NOW = new Date("2026-11-29T10:00:00Z").getTime();
const minute = (m: number) => new Date(Date.UTC(2026, 10, 29, 9, m)).toISOString();
const reading = (m: number) => ({ at: minute(m), said: "does not hold", values: `{"minutes":${m}}` });

const LATEST: Stretch = {
  from: minute(30),
  to: minute(40),
  said: "does not hold",
  count: 11,
  values: '{"minutes":40}',
  extremes: { numbers: { minutes: { least: 30, most: 41 } } },
};
const ONCE: Stretch = {
  ...LATEST,
  from: minute(29),
  to: minute(29),
  said: "holds",
  count: 1,
  extremes: { numbers: {} },
};
const ENDED: Stretch = { ...LATEST, from: minute(10), to: minute(28) };

it("opens a stretch to its readings, earlier ones on request, and says where they are kept no more", async () => {
  const from = encodeURIComponent(LATEST.from);
  play({
    [`GET /api/watches/silent/readings?from=${from}`]: {
      readings: [reading(40), reading(39)],
      more: true,
      keptSince: minute(35),
    },
    [`GET /api/watches/silent/readings?from=${from}&before=${encodeURIComponent(minute(39))}`]: {
      readings: [{ ...reading(38), note: "It did not answer." }],
      more: false,
      keptSince: minute(35),
    },
  });
  show(<Stretches watch="silent" stretches={[LATEST, ONCE]} now={NOW} />);
  expect(await screen.findByText("minutes 40 (30 to 41)")).toBeTruthy();
  const open = screen.getAllByRole("button");
  expect(open).toHaveLength(1);
  fireEvent.click(open[0] as HTMLElement);
  const list = await screen.findByRole("list", { name: "Each reading" });
  expect(within(list).getAllByRole("listitem")).toHaveLength(2);
  expect(screen.queryByText(/kept for seven days/)).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "Earlier" }));
  expect(await screen.findByText("It did not answer.")).toBeTruthy();
  expect(await screen.findByText(/kept for seven days/)).toBeTruthy();
});

it("shows of a stretch that has ended none of the readings after it, and its last", async () => {
  const asked = `from=${encodeURIComponent(ENDED.from)}&before=${encodeURIComponent("2026-11-29T09:28:00.001Z")}`;
  play({
    [`GET /api/watches/silent/readings?${asked}`]: { readings: [reading(28)], more: false, keptSince: minute(1) },
  });
  show(<Stretches watch="silent" stretches={[ONCE, ENDED]} now={NOW} />);
  fireEvent.click(await screen.findByRole("button"));
  expect(await screen.findByText("minutes 28")).toBeTruthy();
  expect(screen.queryByText(/kept for seven days/)).toBeNull();
});

it("takes no reading for its own that says something else: the next stretch has begun", async () => {
  play({
    [`GET /api/watches/silent/readings?from=${encodeURIComponent(LATEST.from)}`]: {
      readings: [{ ...reading(41), said: "holds" }, reading(40)],
      more: true,
      keptSince: minute(1),
    },
  });
  show(<Stretches watch="silent" stretches={[LATEST]} now={NOW} />);
  fireEvent.click(await screen.findByRole("button"));
  const list = await screen.findByRole("list", { name: "Each reading" });
  expect(within(list).getAllByRole("listitem")).toHaveLength(1);
  fireEvent.click(screen.getByRole("button", { name: "Earlier" }));
  expect(await screen.findByRole("alert")).toBeTruthy();
});

it("says when the readings cannot be had", async () => {
  play({});
  show(<Stretches watch="silent" stretches={[LATEST]} now={NOW} />);
  fireEvent.click(await screen.findByRole("button"));
  expect(await screen.findByRole("alert")).toBeTruthy();
});
