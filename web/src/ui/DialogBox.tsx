import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { useGivesBack } from "./givesBack";

/** What a dialog stands in: over the page, and keeping the keyboard until it is closed, when what was left has it again. */
export function DialogBox({
  title,
  onClose,
  children,
  wide,
}: {
  title: string;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}) {
  useGivesBack();
  return (
    <Dialog.Root open onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-[8vh] left-1/2 z-50 max-h-[84vh] w-[calc(100vw-24px)] -translate-x-1/2 overflow-auto rounded-xl border border-hairline bg-raised p-5 shadow-xl ${wide ? "max-w-2xl" : "max-w-lg"}`}
        >
          <Dialog.Title className="mb-3 text-lg font-bold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
