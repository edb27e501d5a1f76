import { useMutation } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { api } from "../../api/client";
import type { Session } from "../../api/types";
import { useGivesBack } from "../../ui/givesBack";
import { Button, Input, Trouble } from "../../ui/kit";

/**
 * Stands over everything once the server knows the session no more: whoever signs in again as the same person goes on where
 * they were, with all they typed. What was on the screen cannot be read meanwhile.
 */
export function SignInAgain({
  session,
  demo,
  onDone,
}: {
  session: Session;
  demo: boolean;
  onDone: (s: Session) => void;
}) {
  useGivesBack();
  const [password, setPassword] = useState("");
  const signIn = useMutation({
    mutationFn: () =>
      demo
        ? api.post<Session>("/api/session/as", { person: session.id })
        : api.post<Session>("/api/session", { person: session.id, password }),
    onSuccess: onDone,
  });
  return (
    <Dialog.Root open>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-[60] bg-paper" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-[60] w-[min(26rem,calc(100vw-2rem))] -translate-x-1/2 -translate-y-1/2 rounded-xl border border-hairline bg-sheet p-6"
          onEscapeKeyDown={(e) => e.preventDefault()}
          onInteractOutside={(e) => e.preventDefault()}
        >
          <Dialog.Title className="text-lg font-bold">You were signed out</Dialog.Title>
          <p className="mt-1 text-ink-2">
            {demo ? "Go on" : "Sign in again"} as <strong className="text-ink">{session.name}</strong>: what you typed
            is still there.
          </p>
          <form
            className="mt-4 flex flex-col gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              signIn.mutate();
            }}
          >
            {!demo && (
              <Input
                label="Password"
                type="password"
                autoComplete="current-password"
                required
                autoFocus
                value={password}
                onChange={(e) => setPassword(e.target.value)}
              />
            )}
            {signIn.isError && <Trouble error={signIn.error} />}
            <div className="flex flex-wrap items-center gap-3">
              <Button look="primary" type="submit" disabled={signIn.isPending}>
                {demo ? `Go on as ${session.name}` : "Sign in"}
              </Button>
              <a href="/" className="link text-sm">
                be somebody else, and leave what was typed
              </a>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
