// @vitest-environment jsdom
import { useQuery } from "@tanstack/react-query";
import { act, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { show } from "../testing/stage";
import { Together } from "./Together";

function Part({ name, answer }: { name: string; answer: Promise<string> }) {
  const asked = useQuery({ queryKey: [name], queryFn: () => answer });
  return <p>{asked.data ?? `${name} is on its way`}</p>;
}

const shown = (text: string) => screen.getByText(text).parentElement?.classList.contains("invisible") === false;

it("shows parts once all of them are there, and then no longer hides them", async () => {
  let first = (_: string) => {};
  let second = (_: string) => {};
  show(
    <Together>
      <Part
        name="clocks"
        answer={
          new Promise((r) => {
            first = r;
          })
        }
      />
      <Part
        name="route"
        answer={
          new Promise((r) => {
            second = r;
          })
        }
      />
    </Together>,
  );
  await screen.findByText("clocks is on its way");
  first("in an hour");
  await screen.findByText("in an hour");
  expect(shown("in an hour")).toBe(false);
  second("three steps");
  await waitFor(() => expect(shown("three steps")).toBe(true));
  expect(shown("in an hour")).toBe(true);
});

it("does not wait for what is slow for ever", async () => {
  show(
    <Together>
      <Part name="clocks" answer={new Promise(() => {})} />
    </Together>,
  );
  await screen.findByText("clocks is on its way");
  expect(shown("clocks is on its way")).toBe(false);
  await waitFor(() => expect(shown("clocks is on its way")).toBe(true), { timeout: 4000 });
});

function Around({ answer }: { answer: Promise<string> }) {
  const asked = useQuery({ queryKey: ["reasons"], queryFn: () => answer });
  return (
    <Together>
      <p>{asked.data ?? "reasons are on their way"}</p>
    </Together>
  );
}

it("waits for what the part around it asks for, too", async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true });
  let told = (_: string) => {};
  show(
    <Around
      answer={
        new Promise((r) => {
          told = r;
        })
      }
    />,
  );
  await screen.findByText("reasons are on their way");
  // Whatever was set to run at once has run by then.
  await act(() => vi.advanceTimersByTimeAsync(50));
  expect(shown("reasons are on their way")).toBe(false);
  told("it stands still");
  await waitFor(() => expect(shown("it stands still")).toBe(true), { timeout: 1000 });
});
