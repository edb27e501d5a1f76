import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { FormEvent, ReactNode } from "react";
import { ProblemError } from "../../api/client";
import { Button, Dialog, Trouble } from "../../ui/kit";

/** A key from a name: "Pier technicians" is pier-technicians. */
export const keyFor = (name: string) =>
  name
    .normalize("NFKD")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);

/** A dialog that sets something up: what went wrong stands at its field, or above the button. */
export function SetUpDialog({
  title,
  save,
  stale,
  onClose,
  children,
  verb = "Save",
  wide,
  places = [],
}: {
  title: string;
  save: () => Promise<unknown>;
  /** What is to be read again afterwards. */
  stale: string[];
  onClose: () => void;
  children: (problemAt: (field: string) => string | undefined) => ReactNode;
  verb?: string;
  wide?: boolean;
  /** Fields that stand further inside, and show there what is wrong with them. */
  places?: string[];
}) {
  const queries = useQueryClient();
  const saving = useMutation({
    mutationFn: save,
    onSuccess: async () => {
      await Promise.all(
        [...stale, "directory", "catalogue"].map((key) => queries.invalidateQueries({ queryKey: [key] })),
      );
      onClose();
    },
  });
  const problem = saving.error instanceof ProblemError ? saving.error.problem : undefined;
  const shown = new Set<string>(places);
  const at = (field: string) => {
    shown.add(field);
    return problem?.where === field ? problem.detail : undefined;
  };
  const content = children(at);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    saving.mutate();
  };
  return (
    <Dialog title={title} open onClose={onClose} wide={wide}>
      <form className="flex flex-col gap-3" onSubmit={submit}>
        {content}
        {saving.isError && !(problem?.where && shown.has(problem.where)) && <Trouble error={saving.error} />}
        <div className="flex gap-2">
          <Button look="primary" type="submit" disabled={saving.isPending}>
            {verb}
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </form>
    </Dialog>
  );
}
