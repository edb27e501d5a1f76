import { useNames } from "../../api/hooks";
import type { Version } from "../../api/types";
import { Button, Dialog, Input, Select, TextArea } from "../../ui/kit";
import { FormEditor } from "./FormEditor";
import { NamedConditions } from "./NamedConditions";
import { useDesigner } from "./store";

/** What a workflow is as a whole: its name, purpose and owner, what it asks for when it starts, what it remembers. */
export function DetailsDialog({ version, onClose }: { version: Version; onClose: () => void }) {
  const edit = useDesigner((s) => s.edit);
  const { directory } = useNames();
  return (
    <Dialog title="About this workflow" open onClose={onClose} wide>
      <div className="flex flex-col gap-4">
        <Input
          label="Name"
          defaultValue={version.name}
          maxLength={120}
          onBlur={(e) => {
            const name = e.target.value.trim();
            if (name)
              edit((d) => {
                d.name = name;
              });
          }}
        />
        <TextArea
          label="Purpose"
          rows={2}
          defaultValue={version.purpose ?? ""}
          onBlur={(e) =>
            edit((d) => {
              d.purpose = e.target.value.trim() || undefined;
            })
          }
        />
        <Select
          label="Owner"
          value={version.owner}
          onChange={(picked) =>
            edit((d) => {
              d.owner = picked;
            })
          }
          options={(directory?.people ?? []).filter((p) => p.active).map((p) => ({ value: p.id, label: p.name }))}
        />
        <FormEditor
          title="Asked for when it starts"
          prefix="input."
          fields={version.startForm}
          onChange={(f) =>
            edit((d) => {
              d.startForm = f;
            })
          }
        />
        <FormEditor
          title="Remembered during a run"
          prefix="vars."
          add="Remember a value"
          fields={version.vars}
          onChange={(f) =>
            edit((d) => {
              d.vars = f;
            })
          }
        />
        <NamedConditions version={version} />
        <Input
          label="Steps in a run, at most"
          help="A loop that nobody meant ends there. 1,000 where nothing is said."
          type="number"
          min={10}
          max={100_000}
          placeholder="1000"
          defaultValue={version.mostVisits ?? ""}
          onBlur={(e) => {
            const most = Number(e.target.value);
            if (e.target.value && !(most >= 10 && most <= 100_000)) return;
            edit((d) => {
              d.mostVisits = e.target.value ? Math.round(most) : undefined;
            });
          }}
        />
        <div>
          <Button look="primary" onClick={onClose}>
            Done
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
