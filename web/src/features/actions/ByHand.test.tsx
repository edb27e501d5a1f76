// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { play, show } from "../../testing/stage";
import { ByHand } from "./ByHand";

const PATH = "/api/actions/kiosk.heard/by-hand";

describe("whether people may read by an action", () => {
  it("is let and taken back", async () => {
    const sent = play({ [`GET ${PATH}`]: { allowed: false }, [`PUT ${PATH}`]: { allowed: true } });
    show(<ByHand action="kiosk.heard" may />);
    fireEvent.click(await screen.findByRole("checkbox"));
    await waitFor(() => expect(screen.getByRole("checkbox").getAttribute("aria-checked")).toBe("true"));
    expect(sent.find((s) => s.method === "PUT")?.body).toEqual({ allowed: true });
  });

  it("is not offered for what cannot be let", async () => {
    play({ [`GET ${PATH}`]: { allowed: false, why: "'X' does not only read." } });
    const { queries } = show(<ByHand action="kiosk.heard" may />);
    await waitFor(() => expect(queries.getQueryData(["by-hand", "kiosk.heard"])).toBeTruthy());
    expect(screen.queryByRole("checkbox")).toBeNull();
  });

  it("says why one that was let is not offered now", async () => {
    play({ [`GET ${PATH}`]: { allowed: true, why: "'X' was withdrawn: it lies." } });
    show(<ByHand action="kiosk.heard" may={false} />);
    expect(await screen.findByText(/It is not offered now: 'X' was withdrawn/)).toBeTruthy();
  });
});
