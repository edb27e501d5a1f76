import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError } from "../../api/client";
import type { SourceView } from "../../api/types";
import { Button, Input, Trouble } from "../../ui/kit";
import { syslogExample } from "./proofs";

/** Where lines of syslog are taken, from which addresses they count as this source's, and an example. */
export function BySyslog({ view, may }: { view: SourceView; may: boolean }) {
  const queries = useQueryClient();
  const { source, syslogPort } = view;
  const [typed, setTyped] = useState<string>();
  const text = typed ?? source.from.join(", ");
  const save = useMutation({
    mutationFn: () => {
      const { key, ...body } = source;
      const from = text.split(/[\s,;]+/).filter(Boolean);
      return api.put(`/api/sources/${key}`, { ...body, from });
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["source", source.key] });
      setTyped(undefined);
    },
  });
  const problem = save.error instanceof ProblemError ? save.error.problem : undefined;
  const atAddresses = problem?.where?.startsWith("from") ? problem.detail : undefined;
  return (
    <section aria-label="How to send" className="max-w-3xl">
      {syslogPort === undefined ? (
        <p className="text-late">
          This server takes no syslog: it was started without <code className="font-mono text-sm">--syslog-port</code>.
        </p>
      ) : (
        <p>
          Senders connect to port <strong>{syslogPort}</strong> of{" "}
          <code className="font-mono text-sm">{window.location.hostname}</code> by TCP and send lines of RFC 5424, with
          the length before each line or one on each line (RFC 6587), at most 64 kB a line.
        </p>
      )}
      <p className="mt-1 text-sm text-ink-2">
        The protocol has no answer: what is on its way when a connection breaks may be lost. Whoever can send from one
        of these addresses can say anything. So what comes may open incidents, and where a trigger would start a
        workflow by itself, a person is asked.
      </p>
      <form
        className="mt-5 flex max-w-xl items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <div className="flex-1">
          <Input
            label="They send from"
            value={text}
            readOnly={!may}
            problem={atAddresses}
            placeholder="10.30.0.0/16"
            help="Addresses or networks, with commas between. Nothing is taken from elsewhere."
            onChange={(e) => setTyped(e.target.value)}
          />
        </div>
        {may && typed !== undefined && (
          <Button type="submit" look="primary" disabled={save.isPending}>
            Set
          </Button>
        )}
      </form>
      {save.isError && !atAddresses && <Trouble error={save.error} />}
      {!may && <p className="mt-2 text-sm text-ink-2">Administrators change what is set here.</p>}
      {syslogPort !== undefined && (
        <>
          <h2 className="mt-5 font-bold">An example for a shell</h2>
          <pre className="mt-1 rounded border border-hairline bg-raised p-3 font-mono text-xs break-all whitespace-pre-wrap">
            {syslogExample(window.location.hostname, syslogPort)}
          </pre>
        </>
      )}
    </section>
  );
}
