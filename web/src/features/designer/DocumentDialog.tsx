import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Step, Version } from "../../api/types";
import { Choices } from "../../ui/Choices";
import { Button, Dialog, TextArea, Trouble } from "../../ui/kit";

interface Made {
  steps: Step[];
  notes: Version["notes"];
}

const UNDER = [
  { value: "check list", label: "a check list of the task" },
  { value: "instructions", label: "instructions of the task" },
  { value: "tasks", label: "tasks of their own" },
];

/** A procedure that exists as a document: each line of its list becomes a task, its wording kept beside it. */
export function DocumentDialog({
  version,
  onAdd,
  onClose,
}: {
  version: Version;
  onAdd: (steps: Step[], notes: Version["notes"]) => void;
  onClose: () => void;
}) {
  const [text, setText] = useState("");
  const [under, setUnder] = useState("check list");
  const make = useMutation({
    mutationFn: () => api.post<Made>("/api/notation/document", { text, version, under }),
    onSuccess: (made) => onAdd(made.steps, made.notes),
  });
  return (
    <Dialog title="From a document" open wide onClose={onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <TextArea
          label="Paste the list"
          help="Numbered lines, dashes or Markdown; each becomes a task, and what goes on without a number is told to whoever does it. Turn lines into approvals, checks or automation afterwards."
          rows={16}
          autoFocus
          value={text}
          onChange={(e) => setText(e.target.value)}
          placeholder={"1. Tell the pier that the boards will flicker\n2. Take board ALD-01 out of service\n  2.1 …"}
        />
        <div className="mt-3">
          <p aria-hidden="true" className="mb-1 text-sm font-semibold text-ink-2">
            What stands under a line becomes
          </p>
          <Choices
            label="What stands under a line becomes"
            className="flex flex-wrap gap-2"
            value={under}
            onChange={setUnder}
            options={UNDER}
          />
        </div>
        {make.isError && (
          <div className="mt-2">
            <Trouble error={make.error} />
          </div>
        )}
        <div className="mt-3 flex gap-2">
          <Button look="primary" type="submit" disabled={text.trim() === "" || make.isPending}>
            Make tasks
          </Button>
          <Button look="quiet" onClick={onClose}>
            Back
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
