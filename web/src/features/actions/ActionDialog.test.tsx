// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Action, Connection } from "../../api/types";
import { play, Refusal, show } from "../../testing/stage";
import { ActionDialog } from "./ActionDialog";

const LANES = { key: "lanes", name: "Lane controllers", base: "https://lanes.kestrel.example" } as Connection;

function open(taken: string[] = [], answer: unknown = null) {
  const answers: Record<string, unknown> = {};
  answers["PUT /api/actions/shut-a-gate"] = answer;
  const sent = play(answers);
  show(<ActionDialog connections={[LANES]} taken={taken} secrets={null} onClose={() => undefined} />);
  const user = userEvent.setup();
  return { user, saved: () => (sent.at(-1)?.body as { action: Action } | undefined)?.action, sent };
}

const named = async (user: ReturnType<typeof userEvent.setup>) =>
  user.type(await screen.findByLabelText("Name"), "Shut a gate");

const press = (name: string) => screen.getByRole("button", { name });

describe("making an action", () => {
  it("sends headers as they stand, even where two names were alike while they were typed", async () => {
    const { user, saved } = open();
    await named(user);
    await user.click(press("Add a header"));
    await user.click(press("Add a header"));
    await user.type(screen.getByLabelText("Header 2"), "Idempotency-Key");
    await user.type(screen.getByLabelText("Header 2"), "-Too");
    await user.type(screen.getAllByLabelText("Value")[1] as HTMLElement, "x");
    await user.click(press("Save"));
    await waitFor(() =>
      expect(saved()?.call.headers).toEqual({ "Idempotency-Key": "{{ call.key }}", "Idempotency-Key-Too": "x" }),
    );
  });

  it("asks after a long job where its answer says, and leaves that out again", async () => {
    const { user, saved } = open();
    await named(user);
    const long = screen.getByLabelText(/It takes long/);
    await user.click(long);
    await user.click(press("Save"));
    await waitFor(() => expect(saved()?.call.poll).toMatchObject({ every: expect.anything() }));
    await user.click(long);
    await user.click(press("Save"));
    await waitFor(() => expect(saved()?.call.poll).toBeUndefined());
  });

  it("lets an output that was never placed follow its name", async () => {
    const { user, saved } = open();
    await named(user);
    await user.click(press("Add an output"));
    const label = screen.getAllByLabelText("Field").at(-1) as HTMLElement;
    await user.clear(label);
    await user.type(label, "Lock number");
    await user.tab();
    await user.click(press("Save"));
    await waitFor(() =>
      expect(saved()?.outputs).toMatchObject([{ field: { name: "lockNumber" }, pointer: "/lockNumber" }]),
    );
  });

  it("takes no name twice, and shows what is wrong where it stands", async () => {
    const { user, sent } = open(["shut-a-gate"]);
    await named(user);
    expect(screen.getByText("There is an action of this name.")).toBeTruthy();
    await user.click(press("Save"));
    expect(sent).toEqual([]);
  });

  it("keeps all that was typed when it is refused", async () => {
    const { user } = open([], new Refusal(422, "At most an hour.", { where: "timeLimit" }));
    await named(user);
    await user.click(press("Save"));
    expect(await screen.findByText("At most an hour.")).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("Time limit").getAttribute("aria-invalid")).toBe("true");
    expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("Shut a gate");
  });
});
