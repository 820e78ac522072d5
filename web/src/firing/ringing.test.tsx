import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Firing } from "../api/client";
import { firing, serve, show } from "../testing/shop.test";
import { Ringing } from "./ringing";

/** A blade that has soaked for its five minutes. */
const over: Firing = {
  ...firing,
  state: {
    ...firing.state,
    position: 2,
    confirmed_ms: [Date.now() - 360_000, Date.now() - 301_000],
    confirmed_by: ["a", "b"],
  },
};

const shop = () => serve(({ path }) => (path === "/api/v1/firings" ? { body: [over] } : undefined));

describe("ringing", () => {
  afterEach(() => vi.unstubAllGlobals());

  it("says which blade is due wherever one is, until it was heard", async () => {
    shop();
    show(<Ringing />, "/steels");
    const link = await screen.findByRole("link", { name: /K-1 .*soak, time is up/ });
    expect(link.getAttribute("href")).toBe("/firings/f1");
    await userEvent.click(screen.getByRole("button", { name: "Heard" }));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  });

  it("stays out of the way of the blade in front, which says it itself", async () => {
    const asked = shop();
    show(<Ringing />, "/firings/f1");
    await waitFor(() => expect(asked.some((a) => a.path === "/api/v1/firings")).toBe(true));
    await new Promise((done) => setTimeout(done, 400));
    expect(screen.queryByRole("alert")).toBeNull();
  });
});
