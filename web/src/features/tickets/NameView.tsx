import { useState } from "react";
import { Check } from "../../ui/Check";
import { Button, Input } from "../../ui/kit";

/** A search gets its name. @param sharing whether it may be for everybody */
export function NameView({
  sharing,
  onSave,
  onBack,
}: {
  sharing: boolean;
  onSave: (view: { name: string; shared: boolean }) => void;
  onBack: () => void;
}) {
  const [name, setName] = useState("");
  const [shared, setShared] = useState(false);
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        onSave({ name, shared });
      }}
    >
      <Input
        label="Name of the view"
        hideLabel
        required
        autoFocus
        placeholder="Name of the view"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      {sharing && <Check label="for everybody" checked={shared} onChange={setShared} />}
      <Button type="submit">Save</Button>
      <Button look="quiet" onClick={onBack}>
        Back
      </Button>
    </form>
  );
}
