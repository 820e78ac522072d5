import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { refused, serve, session, show } from "../testing/shop.test";
import { ShopPage } from "./shop";

const token = {
  id: "t9",
  name: "logger",
  scope: "read",
  by: "Ina",
  created_at: "2026-11-01T00:00:00Z",
  expires_at: null,
  last_used_at: null,
};

describe("the shop", () => {
  it("keeps its settings with the version they were read at", async () => {
    const asked = serve(({ method, body }) =>
      method === "PUT" ? { body: { ...session.workshop, ...(body as object) } } : undefined,
    );
    show(<ShopPage session={session} />);
    await userEvent.selectOptions(screen.getByLabelText("Temperatures in"), "f");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText("Saved.")).toBeTruthy();
    expect(asked.find((a) => a.method === "PUT")?.body).toMatchObject({
      temperature_unit: "f",
      version: 4,
    });
  });

  it("says at the field what is wrong with a time zone", async () => {
    serve(({ method }) =>
      method === "PUT" ? refused([{ field: "time_zone", message: "No such zone." }]) : undefined,
    );
    show(<ShopPage session={session} />);
    const zone = screen.getByLabelText<HTMLInputElement>("Time zone");
    await userEvent.clear(zone);
    await userEvent.type(zone, "Moon/Crater");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await screen.findAllByText(/No such zone/);
    expect(zone.value).toBe("Moon/Crater");
  });

  it("shows a token's secret once and revokes tokens", async () => {
    const asked = serve(({ method, path }) => {
      if (path === "/api/v1/tokens") {
        return { body: method === "GET" ? [token] : { token, secret: "vt_once" } };
      }
      return method === "DELETE" ? { status: 204, body: null } : undefined;
    });
    show(<ShopPage session={session} />);
    await userEvent.type(screen.getByLabelText("What the token is for"), "logger");
    await userEvent.click(screen.getByRole("button", { name: "Make token" }));
    expect(await screen.findByText("vt_once")).toBeTruthy();
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({
      name: "logger",
      scope: "read",
      days: 365,
    });
    await userEvent.click(screen.getByRole("button", { name: "Revoke" }));
    await waitFor(() =>
      expect(asked.find((a) => a.method === "DELETE")?.path).toBe("/api/v1/tokens/t9"),
    );
  });

  it("brings in a file, says what it left alone, and says what is wrong with a file that is none", async () => {
    const report = {
      blades: 3,
      skipped: ["K-1"],
      known: ["Bench kiln"],
      left_out: { photographs: 2, logs: 1 },
    };
    let read = false;
    serve(({ path }) => {
      if (path !== "/api/v1/import") return undefined;
      if (read) return { body: report };
      read = true;
      return refused([{ field: "format", message: "This is not a file of a shop." }]);
    });
    show(<ShopPage session={session} />);
    const field = screen.getByLabelText<HTMLInputElement>("Bring in a file that Vatten wrote");
    await userEvent.upload(field, new File(["not json"], "a.json", { type: "application/json" }));
    expect((await screen.findByRole("alert")).textContent).toMatch(
      /Nothing was stored. This is not a file of a shop/,
    );
    await userEvent.upload(field, new File(["{}"], "b.json", { type: "application/json" }));
    expect(await screen.findByText("3 blades brought in.")).toBeTruthy();
    expect(screen.getByText(/Left alone.*K-1/)).toBeTruthy();
    expect(screen.getByText(/left as they are here: Bench kiln/)).toBeTruthy();
    expect(screen.getByText(/only where it came from: 2 photographs, 1 log/)).toBeTruthy();
  });
});
