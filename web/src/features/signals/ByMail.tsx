import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError } from "../../api/client";
import type { SourceView } from "../../api/types";
import { Button, Input, Trouble } from "../../ui/kit";

/** To which address mail of machines comes, and of whom it is taken. */
export function ByMail({ view, may }: { view: SourceView; may: boolean }) {
  const queries = useQueryClient();
  const { source } = view;
  const [typed, setTyped] = useState<{ to?: string; senders?: string }>({});
  const to = typed.to ?? source.post?.to ?? "";
  const senders = typed.senders ?? (source.post?.senders ?? []).join(", ");
  const save = useMutation({
    mutationFn: () => {
      const { key, ...body } = source;
      const post = { to, senders: senders.split(/[\s,;]+/).filter(Boolean) };
      return api.put(`/api/sources/${key}`, { ...body, post });
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["source", source.key] });
      setTyped({});
    },
  });
  const problem = save.error instanceof ProblemError ? save.error.problem : undefined;
  const at = (where: string) => (problem?.where === where ? problem.detail : undefined);
  const known = problem?.where === "post.to" || problem?.where === "post.senders";
  return (
    <section aria-label="How to send" className="max-w-3xl">
      <p>
        Machines write a mail to an address of this source alone. It comes to the mailbox that Dastur reads, as another
        name of it or passed on to it; which one that is stands under Mail and chat. A mail is marked as read when it is
        kept.
      </p>
      <p className="mt-1 text-sm text-ink-2">
        Who a mail is from is what it says, and anybody can write that. So what comes may open incidents, and where a
        trigger would start a workflow by itself, a person is asked.
      </p>
      <form
        className="mt-5 flex max-w-xl flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <Input
          label="They write to"
          required
          value={to}
          readOnly={!may}
          problem={at("post.to")}
          onChange={(e) => setTyped({ ...typed, to: e.target.value })}
        />
        <Input
          label="It is taken of"
          value={senders}
          readOnly={!may}
          problem={at("post.senders")}
          placeholder="vault@copies.kestrel.example, @monitors.kestrel.example"
          help="Addresses, or whole domains beginning with @, with commas between. Nothing is taken of others."
          onChange={(e) => setTyped({ ...typed, senders: e.target.value })}
        />
        {may && (typed.to !== undefined || typed.senders !== undefined) && (
          <div>
            <Button type="submit" look="primary" disabled={save.isPending}>
              Set
            </Button>
          </div>
        )}
      </form>
      {save.isError && !known && <Trouble error={save.error} />}
      {!may && <p className="mt-2 text-sm text-ink-2">Administrators change what is set here.</p>}
      {senders === "" && <p className="mt-3 text-late">Nothing is taken yet: it says of nobody that their mail is.</p>}
      <h2 className="mt-5 font-bold">What it means</h2>
      <p className="mt-1 text-sm text-ink-2">
        A mail has <code className="font-mono">from</code>, <code className="font-mono">to</code>,{" "}
        <code className="font-mono">subject</code> and <code className="font-mono">text</code>. Which words of them say
        what is set under What it means, where a row may take only the part that fits a regular expression.
      </p>
    </section>
  );
}
