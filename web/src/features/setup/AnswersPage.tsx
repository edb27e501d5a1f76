import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { KnownAnswer } from "../../api/types";
import { Button, Empty, Input, Loading, PageHead, Select, TextArea, Trouble } from "../../ui/kit";
import { When } from "../../ui/When";
import { raises, useSession } from "../signin/session";
import { keyFor, SetUpDialog } from "./saving";

/** What is known before anybody is asked; offered to whoever asks something like it. */
export function AnswersPage() {
  const names = useNames();
  const may = raises(useSession().session);
  const queries = useQueryClient();
  const [open, setOpen] = useState<KnownAnswer | "new">();
  // Deleting cannot be undone, so it is asked for twice.
  const [asked, setAsked] = useState<string>();
  const answers = useQuery({
    queryKey: ["known-answers"],
    queryFn: () => api.get<KnownAnswer[]>("/api/known-answers"),
  });
  const remove = useMutation({
    mutationFn: (id: string) => api.delete(`/api/known-answers/${id}`),
    onSettled: () => queries.invalidateQueries({ queryKey: ["known-answers"] }),
  });
  if (answers.isPending) return <Loading what="known answers" />;
  if (answers.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={answers.error} onRetry={() => answers.refetch()} />
      </div>
    );
  return (
    <>
      <PageHead title="Known answers" sub="Offered to whoever types something like it, before anybody is asked">
        {may && (
          <Button look="primary" onClick={() => setOpen("new")}>
            New answer
          </Button>
        )}
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {answers.data.length === 0 && (
          <Empty title="None yet">
            Write down what is asked again and again, with the answer and where it is from.
          </Empty>
        )}
        <ul className="max-w-4xl">
          {answers.data.map((a) => (
            <li key={a.id} className="border-b border-hairline py-3">
              <div className="flex items-baseline gap-3">
                <h2 className="flex-1 font-semibold">{a.question}</h2>
                <span className="shrink-0 text-sm text-ink-2">
                  {a.helped === 1 ? "helped once" : `helped ${a.helped} times`}
                </span>
                {may && (
                  <>
                    <Button look="quiet" aria-label={`Change: ${a.question}`} onClick={() => setOpen(a)}>
                      Change
                    </Button>
                    {asked === a.id ? (
                      <Button look="danger" disabled={remove.isPending} onClick={() => remove.mutate(a.id)}>
                        Delete for good
                      </Button>
                    ) : (
                      <Button look="quiet" aria-label={`Delete: ${a.question}`} onClick={() => setAsked(a.id)}>
                        Delete
                      </Button>
                    )}
                  </>
                )}
              </div>
              <p className="mt-0.5 whitespace-pre-wrap">{a.answer}</p>
              <p className="mt-1 text-xs text-ink-2">
                {a.source} · kept by {names.person(a.keeper)}
                {a.service && ` · ${names.service(a.service)}`}
                {a.validUntil && ` · valid until ${a.validUntil}`}
              </p>
            </li>
          ))}
        </ul>
        {remove.isError && <Trouble error={remove.error} />}
      </div>
      {open && <AnswerDialog answer={open === "new" ? undefined : open} onClose={() => setOpen(undefined)} />}
    </>
  );
}

function AnswerDialog({ answer, onClose }: { answer?: KnownAnswer; onClose: () => void }) {
  const { directory } = useNames();
  const { session } = useSession();
  const [draft, setDraft] = useState({
    question: answer?.question ?? "",
    answer: answer?.answer ?? "",
    service: answer?.service ?? "",
    source: answer?.source ?? "",
    validUntil: answer?.validUntil ?? "",
    keeper: answer?.keeper ?? session.id,
  });
  const set = (change: Partial<typeof draft>) => setDraft({ ...draft, ...change });
  const id = answer?.id ?? `${keyFor(draft.question).slice(0, 40)}-${draft.question.length}`;
  const body = Object.fromEntries(Object.entries(draft).filter(([, v]) => v !== ""));
  return (
    <SetUpDialog
      title={answer ? "Change a known answer" : "A new known answer"}
      save={() => api.put(`/api/known-answers/${id}`, body)}
      stale={["known-answers"]}
      onClose={onClose}
      wide
    >
      {(at) => (
        <>
          <Input
            label="Question, as people ask it"
            required
            autoFocus
            value={draft.question}
            problem={at("question")}
            onChange={(e) => set({ question: e.target.value })}
          />
          <TextArea
            label="Answer"
            required
            rows={5}
            value={draft.answer}
            problem={at("answer")}
            onChange={(e) => set({ answer: e.target.value })}
          />
          <div className="grid gap-3 sm:grid-cols-2">
            <Input
              label="Where it is from"
              required
              value={draft.source}
              problem={at("source")}
              onChange={(e) => set({ source: e.target.value })}
            />
            <Select
              label="About the service"
              value={draft.service}
              problem={at("service")}
              onChange={(picked) => set({ service: picked })}
              options={[
                { value: "", label: "any" },
                ...(directory?.services ?? []).map((s) => ({ value: s.id, label: s.name })),
              ]}
            />
            <When
              label="Valid until"
              kind="day"
              value={draft.validUntil}
              problem={at("validUntil")}
              onChange={(picked) => set({ validUntil: picked })}
              help="After that day it is not offered any more."
            />
            <Select
              label="Kept by"
              value={draft.keeper}
              problem={at("keeper")}
              onChange={(picked) => set({ keeper: picked })}
              options={(directory?.people ?? []).filter((p) => p.active).map((p) => ({ value: p.id, label: p.name }))}
            />
          </div>
        </>
      )}
    </SetUpDialog>
  );
}
