import { KeysDialog } from "../../ui/KeysDialog";

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
export function RouteKeys({ onClose }: { onClose: () => void }) {
  return (
    <KeysDialog keys={KEYS} onClose={onClose}>
      While adding, say it in a sentence: ask …, approve … by …, run …, tell …, set …, if …, wait …, for each … in …,
      repeat until …, side by side, stage, check, measure, call, call in by …, done. Tab takes what is offered.
    </KeysDialog>
  );
}
