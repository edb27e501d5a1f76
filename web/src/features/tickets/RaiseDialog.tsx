import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { api, isUnsent, ProblemError } from "../../api/client";
import { useNames } from "../../api/hooks";
import type { CiHit } from "../../api/types";
import { Choices } from "../../ui/Choices";
import { Button, Dialog, Input, Select, TextArea, Trouble } from "../../ui/kit";
import { seesAll, useSession } from "../signin/session";
import { type Draft, STORE } from "./draft";
import { KnownAnswers } from "./KnownAnswers";
import { propose } from "./propose";

const NEW: Draft = {
  kind: "incident",
  title: "",
  description: "",
  requester: "",
  ci: "",
  service: "",
  impact: "3",
  urgency: "3",
};

/** What those may raise who ask. */
const ASKS = [
  { kind: "incident", name: "Something does not work", says: "It is broken, slow, wrong, or you cannot get on." },
  { kind: "request", name: "I need something", says: "Access, a thing, a document, or somebody to do something." },
] as const;
const LEVELS = [
  { value: "1", label: "1 highest" },
  { value: "2", label: "2" },
  { value: "3", label: "3" },
  { value: "4", label: "4 lowest" },
];

/** Raising a ticket: one line is enough; CI, service and requester are proposed from it. What is typed survives closing. */
export function RaiseDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { session } = useSession();
  const all = seesAll(session);
  const { directory } = useNames();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [draft, setDraft] = useState<Draft>(() => ({
    ...NEW,
    ...(JSON.parse(sessionStorage.getItem(STORE) ?? "{}") as Partial<Draft>),
  }));
  const [commandId, setCommandId] = useState(() => crypto.randomUUID());
  const set = (change: Partial<Draft>) => {
    const next = { ...draft, ...change };
    setDraft(next);
    sessionStorage.setItem(STORE, JSON.stringify(next));
  };

  const words = useDeferredValue(draft.title);
  const hits = useQuery({
    queryKey: ["cis", words],
    queryFn: async () =>
      (
        await Promise.all(
          propose.searchWords(words).map((w) => api.get<CiHit[]>(`/api/cis?text=${encodeURIComponent(w)}`)),
        )
      ).flat(),
    enabled: open && words.trim().length > 2 && draft.ci === "",
    placeholderData: (before) => before,
  });
  const proposals = draft.ci ? [] : propose.cis(words, hits.data ?? []);
  const people = all && !draft.requester ? propose.people(words, directory?.people ?? []) : [];

  const raise = useMutation({
    mutationFn: () => {
      const { kind, impact, urgency, requester, ...said } = draft;
      // How grave it is, and for whom, is for those who work on tickets to say.
      const fields: Record<string, unknown> = all
        ? { ...said, requester, impact: Number(impact), urgency: Number(urgency) }
        : said;
      for (const [k, v] of Object.entries(fields)) if (v === "") delete fields[k];
      return api.post<{ ticket: string }>("/api/tickets", { kind, fields }, commandId);
    },
    onSuccess: ({ ticket }) => {
      sessionStorage.removeItem(STORE);
      setDraft(NEW);
      setCommandId(crypto.randomUUID());
      queries.invalidateQueries({ queryKey: ["tickets"] });
      onClose();
      navigate({ to: "/tickets/$number", params: { number: ticket } });
    },
    // A refused command is another one when it is sent again; one that got no answer is the same.
    onError: (error) => isUnsent(error) || setCommandId(crypto.randomUUID()),
  });
  const problem = raise.error instanceof ProblemError ? raise.error.problem : undefined;
  const at = (field: string) => (problem?.where === field ? problem.detail : undefined);
  const priority = directory?.priorities[Number(draft.impact) - 1]?.[Number(draft.urgency) - 1];

  return (
    <Dialog title={all ? "Raise a ticket" : "What can we do for you?"} open={open} onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          raise.mutate();
        }}
      >
        {!all && (
          <Choices
            label="What it is"
            value={draft.kind}
            onChange={(kind) => set({ kind })}
            className="grid gap-2 sm:grid-cols-2"
            options={ASKS.map((a) => ({
              value: a.kind,
              label: a.name,
              children: (
                <>
                  <span className="block font-semibold">{a.name}</span>
                  <span className="block text-sm text-ink-2">{a.says}</span>
                </>
              ),
            }))}
          />
        )}
        <Input
          label={draft.kind === "request" && !all ? "What do you need, in one line" : "What is the matter, in one line"}
          autoFocus
          required
          maxLength={500}
          value={draft.title}
          problem={at("title")}
          onChange={(e) => set({ title: e.target.value })}
          placeholder={
            draft.kind === "request" && !all
              ? "The drawings of berth 3, for a contractor"
              : "Gate 2 at Alder Pier stands open"
          }
        />
        {(proposals.length > 0 || people.length > 0) && (
          <div className="flex flex-wrap items-center gap-2" aria-live="polite">
            <span className="text-xs text-ink-2">Is it about</span>
            {proposals.map((c) => (
              <button
                key={c.id}
                type="button"
                className="rounded-full border border-pine px-2.5 py-0.5 text-sm hover:bg-selected"
                onClick={() => set({ ci: c.id, service: c.service ?? draft.service })}
              >
                {c.name} <span className="font-mono text-xs">{c.id}</span>
              </button>
            ))}
            {people.map((p) => (
              <button
                key={p.id}
                type="button"
                className="rounded-full border border-pine px-2.5 py-0.5 text-sm hover:bg-selected"
                onClick={() => set({ requester: p.id })}
              >
                for {p.name}
              </button>
            ))}
          </div>
        )}
        <KnownAnswers
          text={words}
          service={draft.service}
          onHelped={() => {
            sessionStorage.removeItem(STORE);
            setDraft(NEW);
            onClose();
          }}
        />
        <TextArea
          label="More about it"
          rows={3}
          value={draft.description}
          problem={at("description")}
          onChange={(e) => set({ description: e.target.value })}
        />
        <div className="grid gap-3 sm:grid-cols-3">
          {all && (
            <Select
              label="Kind"
              value={draft.kind}
              onChange={(picked) => set({ kind: picked })}
              options={["incident", "change", "request"].map((k) => ({ value: k, label: k }))}
            />
          )}
          <Input
            label={all ? "CI" : "Which thing (its name or number)"}
            value={draft.ci}
            problem={at("ci")}
            onChange={(e) => set({ ci: e.target.value })}
            placeholder="ALD-G2"
          />
          <Select
            label="Service"
            value={draft.service}
            problem={at("service")}
            onChange={(picked) => set({ service: picked })}
            options={[
              { value: "", label: all ? "— from the CI" : "— as the thing says" },
              ...(directory?.services ?? []).map((s) => ({ value: s.id, label: s.name })),
            ]}
          />
          {all && (
            <Select
              label="For whom"
              value={draft.requester}
              problem={at("requester")}
              onChange={(picked) => set({ requester: picked })}
              options={[
                { value: "", label: `me (${session.name})` },
                ...(directory?.people ?? []).filter((p) => p.active).map((p) => ({ value: p.id, label: p.name })),
              ]}
            />
          )}
          {all && (
            <>
              <Select
                label="Impact"
                value={draft.impact}
                onChange={(picked) => set({ impact: picked })}
                options={LEVELS}
              />
              <Select
                label="Urgency"
                value={draft.urgency}
                onChange={(picked) => set({ urgency: picked })}
                options={LEVELS}
              />
            </>
          )}
        </div>
        {raise.isError &&
          !(problem?.where && ["title", "description", "ci", "service", "requester"].includes(problem.where)) && (
            <Trouble error={raise.error} />
          )}
        <div className="flex items-center gap-3">
          <Button look="primary" type="submit" disabled={raise.isPending}>
            {all ? "Raise it" : "Send"}
          </Button>
          <span className="text-ink-2">
            {all ? (
              <>
                Priority <strong className="text-ink">P{priority ?? "?"}</strong>, from impact {draft.impact} × urgency{" "}
                {draft.urgency}
              </>
            ) : (
              "Your page then tells where it stands, and you are told of what is decided."
            )}
          </span>
        </div>
      </form>
    </Dialog>
  );
}
