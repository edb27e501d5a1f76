import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Fit } from "../../api/types";
import { Button } from "../../ui/kit";

/** Answers that fit what is being typed, with their source; "this helped" ends the matter. */
export function KnownAnswers({
  text,
  service,
  onHelped,
  onGive,
}: {
  text: string;
  service: string;
  /** Undefined where an answer is only to be read. */
  onHelped?: (answer: Fit["answer"]) => void;
  /** Gives it to the requester as the ticket's answer. */
  onGive?: (answer: Fit["answer"]) => void;
}) {
  const [opened, setOpened] = useState<string>();
  const fits = useQuery({
    queryKey: ["known-answers", "fitting", text, service],
    queryFn: () =>
      api.get<Fit[]>(
        `/api/known-answers/fitting?text=${encodeURIComponent(text.slice(0, 400))}${service && `&service=${encodeURIComponent(service)}`}`,
      ),
    enabled: text.trim().length > 7,
    placeholderData: (before) => before,
  });
  const helped = useMutation({
    mutationFn: (answer: Fit["answer"]) => api.post(`/api/known-answers/${answer.id}/helped`),
    onSuccess: (_, answer) => (onGive ?? onHelped)?.(answer),
  });
  if (text.trim().length <= 7 || !fits.data?.length) return null;
  return (
    <section aria-label="Known answers" aria-live="polite" className="rounded-lg border border-hairline bg-sheet p-3">
      <h3 className="mb-1 text-sm font-semibold text-ink-2">This may answer it already</h3>
      <ul>
        {fits.data.map(({ answer: a }) => (
          <li key={a.id} className="py-1">
            <button
              type="button"
              aria-expanded={opened === a.id}
              className="link text-left"
              onClick={() => setOpened(opened === a.id ? undefined : a.id)}
            >
              {a.question}
            </button>
            {opened === a.id && (
              <div className="mt-1">
                <p className="whitespace-pre-wrap">{a.answer}</p>
                <p className="mt-0.5 text-xs text-ink-2">
                  {a.source}
                  {a.helped > 0 && ` · helped ${a.helped === 1 ? "once" : `${a.helped} times`}`}
                </p>
                {onHelped && (
                  <Button className="mt-1" disabled={helped.isPending} onClick={() => helped.mutate(a)}>
                    This helped: I need nothing more
                  </Button>
                )}
                {onGive && (
                  <Button className="mt-1" disabled={helped.isPending} onClick={() => helped.mutate(a)}>
                    Give it as the answer
                  </Button>
                )}
              </div>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
