import { useRef, useState } from "react";
import { Glyph } from "../../route/Glyph";
import { BEGINNINGS, begin, type Kind } from "./model";

/** Adds a step where one stands: type what happens, or choose a kind. Enter adds, Escape leaves. */
export function Composer({
  exits,
  exit,
  onExit,
  onAdd,
  onClose,
}: {
  exits: string[];
  exit: string | undefined;
  onExit: (e: string) => void;
  onAdd: (kind: Kind, name: string) => void;
  onClose: () => void;
}) {
  const [text, setText] = useState("");
  const [index, setIndex] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  const typed = begin(text);
  const chosen = typed.kind ?? BEGINNINGS[index]?.kind ?? "task";
  const add = (kind: Kind) => onAdd(kind, typed.name);
  return (
    <div className="border-y border-selected-edge bg-selected px-5 py-3">
      <div className="flex items-center gap-2">
        {exits.length > 1 && (
          <label className="flex items-center gap-1.5 text-sm">
            after
            <select
              className="rounded-md border border-hairline bg-sheet px-1.5 py-1"
              value={exit}
              onChange={(e) => onExit(e.target.value)}
            >
              {exits.map((e) => (
                <option key={e}>{e}</option>
              ))}
            </select>
          </label>
        )}
        <input
          ref={input}
          autoFocus
          aria-label="What happens next"
          className="min-w-0 flex-1 rounded-lg border border-pine bg-sheet px-3 py-1.5"
          placeholder="ask Look at the gate · approve Close the lane · run … · tell … · set … · if … · wait · end"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") {
              e.preventDefault();
              add(chosen);
            } else if (e.key === "Escape") {
              e.preventDefault();
              onClose();
            } else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
              e.preventDefault();
              setIndex((index + (e.key === "ArrowDown" ? 1 : BEGINNINGS.length - 1)) % BEGINNINGS.length);
            }
          }}
        />
      </div>
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
      </div>
    </div>
  );
}
