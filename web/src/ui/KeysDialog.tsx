import type { ReactNode } from "react";
import { Dialog } from "./kit";

/** The keys of a place, opened by "?". */
export function KeysDialog({
  keys,
  onClose,
  children,
}: {
  keys: [string, string][];
  onClose: () => void;
  children?: ReactNode;
}) {
  return (
    <Dialog title="Keys" open onClose={onClose}>
      <dl>
        {keys.map(([k, v]) => (
          <div key={k} className="grid grid-cols-[150px_1fr] border-b border-hairline py-1">
            <dt className="font-mono text-sm">{k}</dt>
            <dd>{v}</dd>
          </div>
        ))}
      </dl>
      {children && <p className="mt-3 text-ink-2">{children}</p>}
    </Dialog>
  );
}
