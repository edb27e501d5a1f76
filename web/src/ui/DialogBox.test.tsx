// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { show } from "../testing/stage";
import { Button, Dialog } from "./kit";

function Page() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>New group</Button>
      <Dialog title="A group" open={open} onClose={() => setOpen(false)}>
        <Button onClick={() => setOpen(false)}>Save</Button>
      </Dialog>
    </>
  );
}

it("takes the keyboard while it is open, and gives it back to what opened it", async () => {
  show(<Page />);
  const opener = await screen.findByRole("button", { name: "New group" });
  opener.focus();
  fireEvent.click(opener);
  const dialog = await screen.findByRole("dialog");
  await waitFor(() => expect(dialog.contains(document.activeElement)).toBe(true));
  fireEvent.click(screen.getByText("Save"));
  await waitFor(() => expect(document.activeElement).toBe(opener));
});
