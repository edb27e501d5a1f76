// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { ADA, play, Refusal, show } from "../../testing/stage";
import { ChannelsPage } from "./ChannelsPage";

const HALVARD = { ...ADA, id: "halvard", name: "Halvard Quist", roles: ["administrator"] } as typeof ADA;
const SERVER = { host: "mail.quay.example", port: 587, safety: "STARTTLS", user: "desk", password: true };
const NOW = {
  mail: { here: true, server: SERVER, from: "desk@quay.example", name: "Quay desk" },
  mailbox: { here: false },
  chat: { here: false, token: false },
  address: { here: false },
};

const part = async (name: string) => within(await screen.findByRole("region", { name }));

describe("mail and chat", () => {
  it("is tried as it is typed, without keeping it, and what was said is gone once somebody types on", async () => {
    const sent = play({
      "GET /api/channels": NOW,
      "POST /api/channels/mail/try": { worked: false, said: "The mail server cannot be reached." },
    });
    show(<ChannelsPage />, { as: HALVARD });
    const user = userEvent.setup();
    const mail = await part("Sending mail");
    await user.click(mail.getByRole("button", { name: "Send a mail to me" }));
    expect(await mail.findByText("The mail server cannot be reached.")).toBeTruthy();
    expect(sent.at(-1)?.body).toEqual({
      host: "mail.quay.example",
      port: 587,
      safety: "STARTTLS",
      user: "desk",
      from: "desk@quay.example",
      name: "Quay desk",
    });
    await user.type(mail.getByLabelText("Sender's name"), "s");
    expect(mail.queryByText("The mail server cannot be reached.")).toBeNull();
  });

  it("shows what is wrong at its field and keeps what was typed", async () => {
    play({
      "GET /api/channels": NOW,
      "PUT /api/channels/mail": new Refusal(422, "Give it again: it is not sent to this one.", { where: "password" }),
    });
    show(<ChannelsPage />, { as: HALVARD });
    const user = userEvent.setup();
    const mail = await part("Sending mail");
    const host = mail.getByLabelText("Server");
    await user.clear(host);
    await user.type(host, "other.quay.example");
    await user.click(mail.getByRole("button", { name: "Keep" }));
    expect(await mail.findByText("Give it again: it is not sent to this one.")).toBeTruthy();
    expect((mail.getByLabelText("Server") as HTMLInputElement).value).toBe("other.quay.example");
  });

  it("asks for a server only where a mailbox is read, and takes the usual port along with the line", async () => {
    const sent = play({ "GET /api/channels": NOW, "PUT /api/channels/mailbox": null });
    show(<ChannelsPage />, { as: HALVARD });
    const user = userEvent.setup();
    const box = await part("Answers by mail");
    expect(box.queryByLabelText("Server")).toBeNull();
    expect(box.queryByRole("button", { name: "Look into it" })).toBeNull();
    await user.click(box.getByLabelText("A mailbox is read"));
    await user.type(box.getByLabelText("Server"), "imap.quay.example");
    await user.type(box.getByLabelText("Signs in as"), "desk");
    await user.type(box.getByLabelText(/^Password/), "t0ken");
    expect((box.getByLabelText("Port") as HTMLInputElement).value).toBe("993");
    await user.click(box.getByRole("combobox", { name: "The line" }));
    await user.click(await screen.findByRole("option", { name: /STARTTLS/ }));
    expect((box.getByLabelText("Port") as HTMLInputElement).value).toBe("143");
    await user.click(box.getByRole("button", { name: "Keep" }));
    expect(await box.findByText("Kept. It is used from now on.")).toBeTruthy();
    await waitFor(() =>
      expect(sent.find((s) => s.path === "/api/channels/mailbox")?.body).toEqual({
        used: true,
        host: "imap.quay.example",
        port: 143,
        safety: "STARTTLS",
        user: "desk",
        password: "t0ken",
      }),
    );
  });

  it("is not there for others", async () => {
    play({});
    show(<ChannelsPage />, { as: ADA });
    expect(await screen.findByText(/set by administrators/)).toBeTruthy();
  });
});
