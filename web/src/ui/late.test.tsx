// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { type ComponentType, type ReactNode, useState } from "react";
import { expect, it } from "vitest";
import { show } from "../testing/stage";
import { fetchLate, late } from "./late";

function Counter({ name }: { name: string }) {
  const [count, setCount] = useState(0);
  return (
    <button type="button" onClick={() => setCount(count + 1)}>
      {name} {count}
    </button>
  );
}

/** A part that comes when it is let go. */
function held() {
  let go = (_: ComponentType<{ name: string }>) => {};
  const Part = late(() => new Promise<ComponentType<{ name: string }>>((r) => (go = r)));
  return { Part, go: () => go(Counter) };
}

function Page({ Part }: { Part: ComponentType<{ name: string; before?: ReactNode }> }) {
  const [name, setName] = useState("gate");
  return (
    <>
      <button type="button" onClick={() => setName("kiosk")}>
        rename
      </button>
      <Part name={name} before={<p>a gate will be here</p>} />
    </>
  );
}

it("shows what stands before it until it comes, and begins only once though it is drawn again", async () => {
  const { Part, go } = held();
  show(<Page Part={Part} />);
  await screen.findByText("a gate will be here");
  go();
  fireEvent.click(await screen.findByText("gate 0"));
  fireEvent.click(screen.getByText("rename"));
  expect(screen.getByText("kiosk 1")).toBeTruthy();
});

it("stands at once when it has come already", async () => {
  const { Part, go } = held();
  const all = fetchLate();
  go();
  await all;
  show(<Part name="gate" before={<p>a gate will be here</p>} />);
  expect(screen.queryByText("a gate will be here")).toBeNull();
  await screen.findByText("gate 0");
});

it("is asked for again after it could not be had", async () => {
  let tries = 0;
  const Part = late(async () => {
    tries++;
    if (tries === 1) throw new Error("no connection");
    return Counter;
  });
  await fetchLate();
  show(<Part name="gate" />);
  await screen.findByText("gate 0");
  expect(tries).toBe(2);
});
