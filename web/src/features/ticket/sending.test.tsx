// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Ask, Session } from "../../api/types";
import { ADA, APPROVAL, MIRA, NO_CONNECTION, play, Refusal, show, TASK } from "../../testing/stage";
import { ApprovalCard } from "./ApprovalCard";
import { NoteDialog } from "./NoteDialog";
import { TaskCard } from "./TaskCard";
import { useTooLate } from "./tooLate";
import { UnsentBar } from "./UnsentBar";
import { useUnsent } from "./unsent";

type Approval = NonNullable<Ask["approval"]>;

const NOTE = "POST /api/tickets/I-7/notes";
const COMPLETE = "POST /api/tasks/I-7.1.1/complete";

beforeEach(() => {
  useUnsent.setState({ list: [] });
  useTooLate.getState().forget();
});

function open(ui: React.ReactNode, answers: Record<string, unknown>, as: Session = ADA) {
  const sent = play(answers);
  show(
    <>
      <UnsentBar />
      {ui}
    </>,
    { as },
  );
  return { sent, user: userEvent.setup() };
}

describe("what did not reach the server", () => {
  it("is said, stays as it was typed, and goes again under the same id", async () => {
    const answers: Record<string, unknown> = { [NOTE]: NO_CONNECTION };
    const { sent, user } = open(<NoteDialog ticket="I-7" onClose={() => undefined} />, answers);
    await user.type(await screen.findByLabelText("Note"), "The arm is bent");
    await user.click(screen.getByRole("button", { name: "Add it to the record" }));
    const bar = await screen.findByText(/your note “The arm is bent”/);
    expect(bar.textContent).toContain("Not sent:");
    expect(screen.getByLabelText<HTMLTextAreaElement>("Note").value).toBe("The arm is bent");
    answers[NOTE] = null;
    // The dialog lies over the page: the same words from there are the same command.
    await user.click(screen.getByRole("button", { name: "Add it to the record" }));
    await waitFor(() => expect(screen.queryByText(/Not sent:/)).toBeNull());
    expect(sent).toHaveLength(2);
    expect(sent[0]?.id).toBeTruthy();
    expect(sent[1]?.id).toBe(sent[0]?.id);
  });

  it("goes again from the bar on whichever page, or is thrown away", async () => {
    const answers: Record<string, unknown> = { [COMPLETE]: new Refusal(503, "Being restarted.") };
    const { sent, user } = open(<TaskCard ask={TASK} ticket="I-7" keys={false} />, answers);
    await user.click(await screen.findByRole("button", { name: "Cleared on the spot" }));
    await screen.findByText(/the outcome “Cleared on the spot”/);
    answers[COMPLETE] = null;
    await user.click(screen.getByRole("button", { name: "Send it again" }));
    await waitFor(() => expect(screen.queryByText(/Not sent:/)).toBeNull());
    expect(new Set(sent.filter((s) => s.path.endsWith("/complete")).map((s) => s.id)).size).toBe(1);
    answers[COMPLETE] = NO_CONNECTION;
    await user.click(screen.getByRole("button", { name: "Close the lane" }));
    await user.click(await screen.findByRole("button", { name: "Throw it away" }));
    expect(screen.queryByText(/Not sent:/)).toBeNull();
  });

  it("is not offered to another person at the same browser", async () => {
    useUnsent.getState().keep({ person: "ada", ticket: "I-7", path: "/api/tickets/I-7/notes", body: {}, id: "one" });
    open(<p>a page</p>, {}, MIRA);
    await screen.findByText("a page");
    expect(screen.queryByText(/Not sent/)).toBeNull();
  });

  it("is not what the server refused: that is said where it was pressed, or beside it when another was first", async () => {
    const late = new Refusal(409, "Teo Marchetti was first.", {
      type: "urn:dastur:problem:too-late",
      title: "Too late",
    });
    const { user } = open(<TaskCard ask={TASK} ticket="I-7" keys={false} />, { [COMPLETE]: late });
    await user.click(await screen.findByRole("button", { name: "Close the lane" }));
    await waitFor(() => expect(useTooLate.getState().said?.detail).toBe("Teo Marchetti was first."));
    expect(screen.queryByText(/Not sent:/)).toBeNull();
  });
});

describe("a decision", () => {
  const card = (more: Partial<Approval> = {}, keys = true) => (
    <ApprovalCard
      ask={{ ...APPROVAL, approval: { ...APPROVAL.approval, ...more } as Approval }}
      ticket="I-7"
      keys={keys}
    />
  );
  const VOTE = { "POST /api/approvals/I-7.1.2/vote": null };

  it("carries the round and what was shown, so that a yes to what has changed since is refused", async () => {
    const { sent, user } = open(card(), VOTE);
    await user.click(await screen.findByRole("button", { name: "Approve" }));
    await waitFor(() => expect(sent.map((s) => s.body)).toEqual([{ approve: true, round: 2, digest: "d-2" }]));
    expect(screen.getByText("round 2: what is shown has changed")).toBeTruthy();
  });

  it("takes no digit while it needs words, nor while somebody types", async () => {
    const { sent, user } = open(card({ commentAlways: true }), VOTE);
    await screen.findByLabelText("Why (needed)");
    await user.keyboard("12");
    await user.type(screen.getByLabelText("Why (needed)"), "2 of 3 agree: 1");
    expect(sent).toEqual([]);
  });

  it("asks for a reason before a no, and Back takes nothing away", async () => {
    const { sent, user } = open(card(), VOTE);
    await screen.findByRole("button", { name: "Approve" });
    await user.keyboard("2");
    await user.keyboard("{Escape}1");
    expect(sent).toEqual([]);
  });

  it("offers no button to those who are not asked, and takes no key from them", async () => {
    const { sent, user } = open(<ApprovalCard ask={{ ...APPROVAL, mine: false }} ticket="I-7" keys />, VOTE);
    await screen.findByText("What you approve");
    expect(screen.queryByRole("button", { name: "Approve" })).toBeNull();
    await user.keyboard("1");
    expect(sent).toEqual([]);
  });
});

describe("a task", () => {
  it("is closed to whoever has not claimed it, and says who has", async () => {
    const claimed = { ...TASK, task: { ...TASK.task, claimedBy: "teo" } as Ask["task"] };
    const { sent, user } = open(<TaskCard ask={claimed} ticket="I-7" keys />, { [COMPLETE]: null });
    expect(await screen.findByText(/Teo Marchetti is on it/)).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Close the lane" }).disabled).toBe(true);
    await user.keyboard("1c");
    expect(sent).toEqual([]);
  });

  it("sends its form with its outcome", async () => {
    const answers = { [COMPLETE]: null, "PUT /api/tasks/I-7.1.1/draft": null };
    const { sent, user } = open(<TaskCard ask={TASK} ticket="I-7" keys={false} />, answers);
    await user.type(await screen.findByLabelText(/What you saw/), "Bent");
    await user.click(screen.getByRole("button", { name: "Close the lane" }));
    await waitFor(() =>
      expect(sent.find((s) => s.method === "POST")?.body).toEqual({
        outcome: "Close the lane",
        form: { seen: "Bent" },
      }),
    );
  });
});
