import { Dialog } from "../../ui/kit";

const KEYS: [string, string][] = [
  ["↑ ↓ or j k", "choose a step"],
  ["↵", "add a step after"],
  ["⇧ ↵", "add a detour"],
  ["i", "add a step inside a stage, for each, repeat or lane"],
  ["f", "fold or open it"],
  ["⌥ ↑ ↓", "move the step along its line"],
  ["t", "the workflow as text"],
  ["r", "rehearse"],
  ["d", "one line a step, or full rows"],
  ["Ctrl C, Ctrl V", "copy a step or a whole stage; put it after the selected one, here or in another workflow"],
  ["Delete", "delete the step"],
  ["Ctrl Z, Ctrl ⇧ Z", "undo, redo"],
  ["Ctrl K", "find anything"],
];

/** The keys of the route. */
export function KeysDialog({ onClose }: { onClose: () => void }) {
  return (
    <Dialog title="Keys" open onClose={onClose}>
      <dl>
        {KEYS.map(([k, v]) => (
          <div key={k} className="grid grid-cols-[150px_1fr] border-b border-hairline py-1">
            <dt className="font-mono text-sm">{k}</dt>
            <dd>{v}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-3 text-ink-2">
        While adding, say it in a sentence: ask …, approve … by …, run …, tell …, set …, if …, wait …, for each … in …,
        repeat until …, side by side, stage, check, measure, call, call in by …, done. Tab takes what is offered.
      </p>
    </Dialog>
  );
}
