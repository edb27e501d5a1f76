import { Dialog } from "../../ui/kit";

const KEYS: [string, string][] = [
  ["↑ ↓ or j k", "choose a step"],
  ["↵", "add a step after"],
  ["⇧ ↵", "add a detour"],
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
        While adding, begin with ask, approve, run, tell, set, if, wait or end, then say what happens.
      </p>
    </Dialog>
  );
}
