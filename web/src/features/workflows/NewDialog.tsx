import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type ReactNode, useState } from "react";
import { api } from "../../api/client";
import { useNames, useWorkflows } from "../../api/hooks";
import type { Template } from "../../api/types";
import { Choices } from "../../ui/Choices";
import { Button, Dialog, Input, Select, TextArea, Trouble } from "../../ui/kit";

const keyOf = (name: string) =>
  name
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")
    .slice(0, 60);

/** Makes a workflow: from nothing, from one that ships with the product, or as a copy of another. */
export function NewDialog({ onClose, begin }: { onClose: () => void; begin?: string }) {
  const navigate = useNavigate();
  const workflows = useWorkflows();
  const [name, setName] = useState("");
  const [purpose, setPurpose] = useState("");
  const [kind, setKind] = useState("incident");
  const names = useNames();
  const gallery = useGallery();
  const [from, setFrom] = useState(begin ? GALLERY + begin : EMPTY);
  const [work, setWork] = useState("");
  const [decide, setDecide] = useState("");
  const template = gallery.data?.find((t) => from === GALLERY + t.key);
  const called = name || template?.name || "";
  const groups = names.directory?.groups ?? [];
  const make = useMutation({
    mutationFn: () =>
      api.post<{ key: string }>("/api/workflows", {
        key: keyOf(called),
        name: called,
        ...(purpose ? { purpose } : {}),
        ...(kind && !template ? { kind } : {}),
        ...(template
          ? { from: { template: template.key, work, ...(template.decides ? { decide } : {}) } }
          : from !== EMPTY
            ? { copyOf: from }
            : {}),
      }),
    onSuccess: ({ key }) => navigate({ to: "/workflows/$key", params: { key } }),
  });
  return (
    <Dialog title="New workflow" open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <Input
          label="Name"
          required={!template}
          autoFocus
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
          placeholder={template?.name ?? "Gate lane stuck open"}
        />
        <TextArea
          label="Purpose"
          rows={2}
          value={purpose}
          onChange={(e) => setPurpose(e.target.value)}
          placeholder="What it is for, in a sentence"
        />
        {!template && (
          <Select
            label="For"
            value={kind}
            onChange={(picked) => setKind(picked)}
            options={[
              { value: "incident", label: "Incidents" },
              { value: "change", label: "Changes" },
              { value: "request", label: "Requests" },
              { value: "routine", label: "Routines: what starts by itself, and nobody asks for" },
              { value: "", label: "Any ticket" },
            ]}
          />
        )}
        <div>
          <p className="mb-1 text-sm font-semibold text-ink-2">Start from</p>
          <Choices
            label="Start from"
            value={from}
            onChange={setFrom}
            className="grid max-h-64 gap-2 overflow-auto sm:grid-cols-2"
            options={[
              {
                value: EMPTY,
                label: "An empty route",
                children: <Start name="An empty route" says="Begin with the first step." />,
              },
              ...(gallery.data ?? []).map((t) => ({
                value: GALLERY + t.key,
                label: t.name,
                children: (
                  <Start name={t.name} says={t.purpose}>
                    ships with Dastur · {t.steps} steps · {t.kind ? `for ${t.kind}s` : "for any ticket"}
                  </Start>
                ),
              })),
              ...(workflows.data ?? [])
                .filter((w) => !w.retired)
                .map((w) => ({
                  value: w.key,
                  label: w.name,
                  children: (
                    <Start name={`A copy of ${w.name}`} says={w.purpose}>
                      {w.steps} steps · {w.runs === 1 ? "ran once" : `ran ${w.runs} times`}
                    </Start>
                  ),
                })),
            ]}
          />
        </div>
        {template && groups.length === 0 && (
          <p className="text-soon">
            It names groups, and there is none yet.{" "}
            <Link to="/people" className="link">
              Make one under People
            </Link>{" "}
            first.
          </p>
        )}
        {template && groups.length > 0 && (
          <div className="grid gap-3 sm:grid-cols-2">
            <Select
              label="Who does the work"
              value={work}
              placeholder="choose a group…"
              onChange={setWork}
              options={groups.map((g) => ({ value: g.id, label: g.name }))}
            />
            {template.decides && (
              <Select
                label="Who decides"
                value={decide}
                placeholder="choose a group…"
                onChange={setDecide}
                options={groups.map((g) => ({ value: g.id, label: g.name }))}
              />
            )}
          </div>
        )}
        {make.isError && <Trouble error={make.error} />}
        <div>
          <Button
            look="primary"
            type="submit"
            disabled={make.isPending || (template && (!work || (template.decides && !decide)))}
          >
            Make it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Begins with nothing; no workflow has such a key. */
const EMPTY = "+";

/** Stands before what ships with the product, in the list of beginnings. */
const GALLERY = "+gallery/";

/** What ships with the product, to begin with. */
export const useGallery = () =>
  useQuery({
    queryKey: ["gallery"],
    queryFn: () => api.get<Template[]>("/api/gallery"),
    staleTime: Number.POSITIVE_INFINITY,
  });

function Start({ name, says, children }: { name: string; says: string | undefined; children?: ReactNode }) {
  return (
    <>
      <span className="block font-semibold">{name}</span>
      <span className="block text-sm text-ink-2">{says}</span>
      {children && <span className="block text-xs text-ink-2">{children}</span>}
    </>
  );
}
