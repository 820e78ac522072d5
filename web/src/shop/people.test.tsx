import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { refused, serve, session, show } from "../testing/shop.test";
import { ShopPage } from "./shop";

const aksel = {
  id: "p2",
  name: "Aksel",
  email: "aksel@shop.example",
  role: "helper",
  created_at: "2026-02-01T08:00:00Z",
};
const invitation = {
  id: "i1",
  name: "Runa",
  role: "reader",
  expires_at: "2026-12-09T08:00:00Z",
};
const device = (id: string, here: boolean) => ({
  id,
  device: here ? "Firefox, Linux" : "Chrome, Android",
  created_at: "2026-11-01T08:00:00Z",
  last_seen_at: "2026-11-20T08:00:00Z",
  here,
});

function shop(more: Record<string, unknown> = {}) {
  return serve(({ method, path }) => {
    const said = more[`${method} ${path}`];
    if (said) return said as { status?: number; body: unknown };
    if (method === "DELETE") return { status: 204, body: null };
    const lists: Record<string, unknown> = {
      "/api/v1/people": [session.person, aksel],
      "/api/v1/invitations": [invitation],
      "/api/v1/sessions": [device("s1", true), device("s2", false)],
      "/api/v1/session/codes": { left: 0 },
    };
    return method === "GET" && lists[path] ? { body: lists[path] } : undefined;
  });
}

describe("people of the shop", () => {
  it("invites by a link that is shown once, and takes one back", async () => {
    const asked = shop({
      "POST /api/v1/invitations": {
        body: { invitation: { ...invitation, id: "i2" }, path: "/invited#secret" },
      },
    });
    show(<ShopPage session={session} />);
    await userEvent.type(await screen.findByLabelText("Who"), "Runa");
    await userEvent.selectOptions(screen.getByLabelText("As"), "reader");
    await userEvent.click(screen.getByRole("button", { name: "Make a link" }));
    expect(await screen.findByText(/\/invited#secret/)).toBeTruthy();
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({ name: "Runa", role: "reader" });
    await userEvent.click(screen.getByRole("button", { name: "Take back" }));
    await waitFor(() => expect(asked.some((a) => a.path === "/api/v1/invitations/i1")).toBe(true));
  });

  it("asks once more before somebody leaves, and says what the server said", async () => {
    const asked = shop({
      "PUT /api/v1/people/p2": refused([{ field: "role", message: "A shop has an owner." }]),
    });
    show(<ShopPage session={session} />);
    await userEvent.selectOptions(await screen.findByLabelText("What Aksel is"), "smith");
    expect(await screen.findByText(/A shop has an owner/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Leaves…" }));
    expect(asked.some((a) => a.method === "DELETE")).toBe(false);
    await userEvent.click(screen.getByRole("button", { name: "Aksel leaves" }));
    await waitFor(() => expect(asked.some((a) => a.path === "/api/v1/people/p2")).toBe(true));
  });

  it("shows a helper who works here, and nothing that is the owner's or a smith's", async () => {
    shop();
    const helper = { ...session, person: { ...session.person, role: "helper" as const } };
    show(<ShopPage session={helper} />);
    expect(await screen.findByText("Aksel")).toBeTruthy();
    for (const absent of ["Make a link", "Make token", "Leaves…", "Make an address"]) {
      expect(screen.queryByRole("button", { name: absent })).toBeNull();
    }
    expect(screen.queryByLabelText("Shop name")).toBeNull();
    expect(screen.queryByLabelText("Bring in a file that Vatten wrote")).toBeNull();
  });
});

describe("one's own sign-in", () => {
  it("says at its field that the password was another one", async () => {
    shop({
      "PUT /api/v1/session/password": refused([
        { field: "old", message: "This is not your password." },
      ]),
    });
    show(<ShopPage session={session} />);
    await userEvent.type(await screen.findByLabelText("Password now"), "wrong one here");
    await userEvent.type(screen.getByLabelText("New password"), "hammer on cold steel");
    await userEvent.click(screen.getByRole("button", { name: "Change the password" }));
    expect(await screen.findByText("This is not your password.")).toBeTruthy();
  });

  it("shows codes once and signs out elsewhere", async () => {
    const asked = shop({
      "POST /api/v1/session/codes": { body: { codes: ["abcde-abcde-abcde-abcde"] } },
    });
    show(<ShopPage session={session} />);
    expect(await screen.findByText("You have none yet.")).toBeTruthy();
    await userEvent.type(screen.getByLabelText("Your password"), "a few long words");
    await userEvent.click(screen.getByRole("button", { name: "Make codes" }));
    expect(await screen.findByText("abcde-abcde-abcde-abcde")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Sign out there" }));
    await waitFor(() => expect(asked.some((a) => a.path === "/api/v1/sessions/s2")).toBe(true));
  });
});
