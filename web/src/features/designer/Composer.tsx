import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import type { NotationProblem, Step, Version } from "../../api/types";
import { Glyph } from "../../route/Glyph";
import { Select } from "../../ui/kit";
import { BEGINNINGS, begin, type Kind } from "./model";

interface Sentence {
  step?: Step;
  problem?: NotationProblem;
  offers: string[];
}

/** Adds a step where one stands: a typed sentence makes it. Tab takes what is offered, Enter adds, Escape leaves. */
export function Composer({
  version,
  exits,
  exit,
  inside,
  onExit,
  onAdd,
  onMade,
  onClose,
}: {
  version: Version;
  exits: string[];
  exit: string | undefined;
  /** The bracket's line that the step goes into, in words; otherwise it comes after a step. */
  inside?: string;
  onExit: (e: string) => void;
  onAdd: (kind: Kind, name: string) => void;
  onMade: (step: Step) => void;
  onClose: () => void;
}) {
  const [text, setText] = useState("");
  const [index, setIndex] = useState(0);
  const asked = useDeferredValue(text);
  const read = useQuery({
    queryKey: ["sentence", asked, version],
    queryFn: () => api.post<Sentence>("/api/notation/sentence", { text: asked, version }),
    enabled: asked.trim() !== "",
    placeholderData: (before) => before,
    staleTime: 60_000,
    retry: false,
  });
  const typed = begin(text);
  const chosen = typed.kind ?? BEGINNINGS[index]?.kind ?? "task";
  const sentence = text.trim() === "" ? undefined : read.data;
  const offers = sentence?.offers ?? [];
  const add = (kind: Kind) => onAdd(kind, typed.name);
  const enter = async () => {
    if (text.trim() === "") return add(chosen);
    // What was typed last may not have been read yet: it is read now, so that Enter means what stands there.
    const now =
      read.data && asked === text
        ? read.data
        : await api.post<Sentence>("/api/notation/sentence", { text, version }).catch(() => undefined);
    if (now?.step) onMade(now.step);
    else add(chosen);
  };
  return (
    <div className="border-y border-selected-edge bg-selected px-5 py-3">
      <div className="flex items-center gap-2">
        {inside && <span className="text-sm">inside {inside}</span>}
        {!inside && exits.length > 1 && (
          <span className="flex shrink-0 items-center gap-1.5 text-sm">
            after
            <Select
              label="after"
              hideLabel
              value={exit}
              onChange={onExit}
              options={exits.map((e) => ({ value: e, label: e }))}
            />
          </span>
        )}
        <input
          autoFocus
          aria-label="What happens next"
          className="min-w-0 flex-1 rounded-lg border border-pine bg-sheet px-3 py-1.5"
          placeholder={`ask Pier technicians "Look at the gate" within 30 min: fixed, needs a part`}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") {
              e.preventDefault();
              enter();
            } else if (e.key === "Escape") {
              e.preventDefault();
              onClose();
            } else if (e.key === "Tab" && offers[0] && !e.shiftKey) {
              e.preventDefault();
              setText(offers[0]);
            } else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
              e.preventDefault();
              setIndex((index + (e.key === "ArrowDown" ? 1 : BEGINNINGS.length - 1)) % BEGINNINGS.length);
            }
          }}
        />
      </div>
      {offers.length > 0 && (
        <div className="mt-1.5 flex flex-wrap gap-1">
          {offers.map((o, i) => (
            <button
              key={o}
              type="button"
              tabIndex={-1}
              className="rounded border border-hairline bg-sheet px-1.5 text-sm hover:border-pine"
              onClick={() => setText(o)}
            >
              {o}
              {i === 0 && <kbd className="ml-1.5 font-mono text-[10px] text-ink-2">Tab</kbd>}
            </button>
          ))}
        </div>
      )}
      {sentence && (
        <p role="status" className="mt-1.5 text-sm text-ink-2">
          {sentence.step ? (
            <>
              <span className="text-well">✓</span> Enter adds “{sentence.step.name}”.
            </>
          ) : (
            sentence.problem && (
              <>
                {sentence.problem.message}
                {sentence.problem.proposal && <> Perhaps “{sentence.problem.proposal}”?</>} Enter adds{" "}
                {chosen === "end" ? "an end" : `a step that ${BEGINNINGS.find((x) => x.kind === chosen)?.says}`} all the
                same.
              </>
            )
          )}
        </p>
      )}
      <div role="group" aria-label="Kind of step" className="mt-2 flex flex-wrap gap-1">
        {BEGINNINGS.map((b) => (
          <button
            key={b.kind}
            type="button"
            aria-pressed={b.kind === chosen}
            className={`flex items-center gap-1.5 rounded-lg border px-2 py-1 text-sm ${b.kind === chosen ? "border-pine bg-sheet font-semibold" : "border-transparent hover:bg-sheet"}`}
            onClick={() => add(b.kind)}
          >
            <svg aria-hidden="true" width="20" height="20" viewBox="-14 -14 28 28" className="text-pine">
              <Glyph kind={b.kind} />
            </svg>
            <span>
              {b.word} <span className="font-normal text-ink-2">{b.says}</span>
            </span>
          </button>
        ))}
        <span className="self-center text-sm text-ink-2">
          or: for each … in …, repeat until …, side by side, stage, check, measure, call, call in
        </span>
      </div>
    </div>
  );
}
