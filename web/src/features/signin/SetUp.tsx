import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Session } from "../../api/types";
import { Button, Input, Trouble } from "../../ui/kit";
import { Wordmark } from "../../ui/Wordmark";

/** Makes the first account of a fresh installation. */
export function SetUp({ onDone }: { onDone: (s: Session) => void }) {
  const [form, setForm] = useState({ id: "", name: "", mail: "", password: "" });
  const make = useMutation({ mutationFn: () => api.post<Session>("/api/setup", form), onSuccess: onDone });
  const field = (name: keyof typeof form) => ({
    value: form[name],
    onChange: (e: React.ChangeEvent<HTMLInputElement>) => setForm({ ...form, [name]: e.target.value }),
  });
  return (
    <main className="mx-auto flex min-h-full max-w-md flex-col justify-center gap-5 px-5 py-10">
      <Wordmark />
      <div>
        <h1 className="text-2xl font-bold">The first account</h1>
        <p className="mt-1 text-ink-2">Nobody is here yet. This account can set everything up and design workflows.</p>
      </div>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <Input
          label="Short name"
          help="A word to sign in with, such as ines."
          required
          autoFocus
          autoComplete="username"
          {...field("id")}
        />
        <Input label="Full name" required autoComplete="name" {...field("name")} />
        <Input label="Mail address" type="email" autoComplete="email" {...field("mail")} />
        <Input
          label="Password"
          help="At least 10 characters."
          type="password"
          required
          minLength={10}
          autoComplete="new-password"
          {...field("password")}
        />
        {make.isError && <Trouble error={make.error} />}
        <div>
          <Button look="primary" type="submit" disabled={make.isPending}>
            Make the account
          </Button>
        </div>
      </form>
    </main>
  );
}
