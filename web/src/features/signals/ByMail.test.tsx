// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { SourceView } from "../../api/types";
import { play, Refusal, show } from "../../testing/stage";
import { ByMail } from "./ByMail";

const VIEW = {
  source: {
    key: "copies",
    name: "Copies",
    open: true,
    proof: "mail",
    post: { to: "copies@kestrel.example", senders: ["@copies.kestrel.example"] },
  },
} as unknown as SourceView;
const PUT = "PUT /api/sources/copies";

const type = async (label: string, value: string) =>
  fireEvent.change(await screen.findByLabelText(label), { target: { value } });

describe("a source of mail", () => {
  it("sets where its senders write to and who they are, and nothing else", async () => {
    const sent = play({ [PUT]: VIEW });
    show(<ByMail view={VIEW} may />);
    expect(screen.queryByRole("button", { name: "Set" })).toBeNull();
    await type("It is taken of", "vault@copies.kestrel.example,  @monitors.kestrel.example");
    fireEvent.click(screen.getByRole("button", { name: "Set" }));
    await waitFor(() => expect(sent.filter((s) => s.method === "PUT")).toHaveLength(1));
    const { key, ...rest } = VIEW.source;
    const senders = ["vault@copies.kestrel.example", "@monitors.kestrel.example"];
    expect(sent[0]?.body).toEqual({ ...rest, post: { to: "copies@kestrel.example", senders } });
  });

  it("says of nobody that nothing is taken", async () => {
    play({});
    const nobody = { ...VIEW.source, post: { to: "copies@kestrel.example", senders: [] } };
    show(<ByMail view={{ ...VIEW, source: nobody }} may />);
    expect(await screen.findByText(/Nothing is taken yet/)).toBeTruthy();
  });

  it("keeps what was typed where it is refused, and says so there", async () => {
    play({ [PUT]: new Refusal(422, "This is the desk's own address.", { where: "post.to" }) });
    show(<ByMail view={VIEW} may />);
    await type("They write to", "dastur@kestrel.example");
    fireEvent.click(screen.getByRole("button", { name: "Set" }));
    expect(await screen.findByText("This is the desk's own address.")).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("They write to").value).toBe("dastur@kestrel.example");
  });

  it("lets nobody else change it", async () => {
    play({});
    show(<ByMail view={VIEW} may={false} />);
    expect((await screen.findByLabelText<HTMLInputElement>("They write to")).readOnly).toBe(true);
    expect(screen.getByText("Administrators change what is set here.")).toBeTruthy();
  });
});
