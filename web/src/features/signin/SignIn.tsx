import { CaretRightIcon } from "@phosphor-icons/react/CaretRight";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Entrance, Session } from "../../api/types";
import { Button, Input, Trouble } from "../../ui/kit";
import { Wordmark } from "../../ui/Wordmark";

export function SignIn({ entrance, onDone }: { entrance: Entrance; onDone: (s: Session) => void }) {
  const [person, setPerson] = useState("");
  const [password, setPassword] = useState("");
  const signIn = useMutation({
    mutationFn: () => api.post<Session>("/api/session", { person, password }),
    onSuccess: onDone,
  });
  const lookAround = useMutation({
    mutationFn: (id: string) => api.post<Session>("/api/session/as", { person: id }),
    onSuccess: onDone,
  });

  return (
    <main className="mx-auto flex min-h-full max-w-4xl flex-col justify-center gap-8 px-5 py-10">
      <header>
        <Wordmark />
        <h1 className="mt-6 text-2xl font-bold">
          {entrance.demo ? "Look around at Kestrel Sound Ferries" : "Sign in"}
        </h1>
        {entrance.demo && (
          <p className="mt-1 max-w-prose text-ink-2">
            A made-up ferry company with real workflows, thirty days of history and a few matters that wait for
            somebody. Choose whom to be.
          </p>
        )}
      </header>
      {entrance.demo ? (
        <ul className="grid gap-px overflow-hidden rounded-xl border border-hairline bg-hairline sm:grid-cols-2">
          {entrance.demoPeople.map((p) => (
            <li key={p.id} className="bg-sheet">
              <button
                type="button"
                className="group flex h-full w-full items-start justify-between gap-3 p-4 text-left hover:bg-selected"
                disabled={lookAround.isPending}
                onClick={() => lookAround.mutate(p.id)}
              >
                <span>
                  <span className="block text-base font-semibold">{p.name}</span>
                  <span className="block text-ink-2">{p.does}</span>
                  <span className="mt-1 block">{p.finds}</span>
                </span>
                <CaretRightIcon aria-hidden className="mt-1 shrink-0" />
              </button>
            </li>
          ))}
        </ul>
      ) : (
        <form
          className="flex max-w-sm flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            signIn.mutate();
          }}
        >
          <Input
            label="Name or mail address"
            autoComplete="username"
            required
            value={person}
            onChange={(e) => setPerson(e.target.value)}
            autoFocus
          />
          <Input
            label="Password"
            type="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
          <div>
            <Button look="primary" type="submit" disabled={signIn.isPending}>
              Sign in
            </Button>
          </div>
        </form>
      )}
      {(signIn.isError || lookAround.isError) && <Trouble error={signIn.error ?? lookAround.error} />}
    </main>
  );
}
