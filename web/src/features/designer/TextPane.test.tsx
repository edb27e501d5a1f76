// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { beforeEach, expect, it, vi } from "vitest";
import type { Version } from "../../api/types";
import { play, show } from "../../testing/stage";
import { TextPane } from "./TextPane";

// The editor needs a layout; what it tells is all that matters here.
vi.mock("./NotationEditor", () => ({
  NotationEditor: (on: { text: string; onType: (text: string) => void; onTakeOver: () => void }) => (
    <>
      <textarea aria-label="Notation" value={on.text} onChange={(e) => on.onType(e.target.value)} />
      <button type="button" onClick={on.onTakeOver}>
        back to the route
      </button>
    </>
  ),
}));

const version = (name: string) =>
  ({
    key: "gate",
    number: 2,
    name,
    startForm: [],
    vars: [],
    conditions: {},
    body: { steps: [] },
  }) as unknown as Version;

function Designer({ applied }: { applied: string[] }) {
  const [draft, setDraft] = useState(version("as it was"));
  const [open, setOpen] = useState(true);
  return (
    <>
      <p>route: {draft.name}</p>
      <button type="button" onClick={() => setDraft(version("as it was"))}>
        undo
      </button>
      {open && (
        <TextPane
          version={draft}
          findings={[]}
          selected={undefined}
          readOnly={false}
          onSelect={() => undefined}
          onApply={(made) => {
            applied.push(made.name);
            setDraft(made);
          }}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  );
}

beforeEach(() => {
  vi.useFakeTimers({ shouldAdvanceTime: true });
});

/** A server that answers what is read only when it is told to, and a route that shows the name. */
function stage() {
  const answers: ((text: string) => void)[] = [];
  const applied: string[] = [];
  play({
    "POST /api/notation/write": { text: "as it was" },
    "POST /api/notation/read": () =>
      new Promise((go) => answers.push((name) => go({ version: version(name), problems: [] }))),
  });
  show(<Designer applied={applied} />);
  return { answers, applied };
}

const type = async (text: string) =>
  fireEvent.change(await screen.findByLabelText("Notation"), { target: { value: text } });

it("takes over what is typed once somebody pauses", async () => {
  const { answers } = stage();
  await type("new words");
  await waitFor(() => expect(answers).toHaveLength(1));
  answers[0]?.("new words");
  await screen.findByText("route: new words");
});

it("brings nothing back that was undone after the pane was left, however late the server answers", async () => {
  const { answers, applied } = stage();
  await type("new words");
  await waitFor(() => expect(answers).toHaveLength(1));
  // Read by itself already, and not answered yet, when one goes back to the route.
  fireEvent.click(screen.getByText("back to the route"));
  await waitFor(() => expect(answers).toHaveLength(2));
  answers[1]?.("new words");
  await screen.findByText("route: new words");
  await waitFor(() => expect(screen.queryByLabelText("Notation")).toBeNull());
  fireEvent.click(screen.getByText("undo"));
  answers[0]?.("new words");
  await act(() => vi.advanceTimersByTimeAsync(50));
  expect(applied).toEqual(["new words"]);
  expect(screen.getByText("route: as it was")).toBeTruthy();
});

it("is not asked a second time by itself while what a person asked for is read", async () => {
  const { answers } = stage();
  await type("new words");
  fireEvent.click(screen.getByText("back to the route"));
  await waitFor(() => expect(answers).toHaveLength(1));
  await act(() => vi.advanceTimersByTimeAsync(1_000));
  expect(answers).toHaveLength(1);
});
