import { useNames } from "../../api/hooks";
import type { Version } from "../../api/types";
import { Button, Dialog, Input, Select, TextArea } from "../../ui/kit";
import { counted, Tabs } from "../../ui/Tabs";
import { FormEditor } from "./FormEditor";
import { NamedConditions } from "./NamedConditions";
import { useDesigner } from "./store";

/** What a workflow is as a whole: its name, purpose and owner, what it asks for when it starts, what it remembers. */
export function DetailsDialog({ version, onClose }: { version: Version; onClose: () => void }) {
  const edit = useDesigner((s) => s.edit);
  const { directory } = useNames();
  return (
    <Dialog title="About this workflow" open onClose={onClose} wide>
      <Tabs
        label="About this workflow"
        tabs={[
          {
            key: "about",
            title: "About",
            content: (
              <>
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
                  options={(directory?.people ?? [])
                    .filter((p) => p.active)
                    .map((p) => ({ value: p.id, label: p.name }))}
                />
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
              </>
            ),
          },
          {
            key: "start",
            title: counted("Asked at the start", version.startForm.length),
            content: (
              <FormEditor
                title="Asked for when it starts"
                says="Whoever starts it fills this in, by hand or as a program; a trigger says where each value comes from. Each step can read it."
                asks
                prefix="input."
                fields={version.startForm}
                onChange={(f) =>
                  edit((d) => {
                    d.startForm = f;
                  })
                }
              />
            ),
          },
          {
            key: "vars",
            title: counted("Remembered", version.vars.length),
            content: (
              <FormEditor
                title="Remembered during a run"
                says="An update step sets them, and later steps can read them."
                prefix="vars."
                add="Remember a value"
                fields={version.vars}
                onChange={(f) =>
                  edit((d) => {
                    d.vars = f;
                  })
                }
              />
            ),
          },
          {
            key: "conditions",
            title: counted("Conditions", Object.keys(version.conditions ?? {}).length),
            content: <NamedConditions version={version} />,
          },
        ]}
      />
      <div className="mt-4">
        <Button look="primary" onClick={onClose}>
          Done
        </Button>
      </div>
    </Dialog>
  );
}
