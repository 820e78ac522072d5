import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { describe, expect, it } from "vitest";
import type { Firing } from "../api/client";
import { type Asked, firing, serve, show } from "../testing/shop.test";
import { FiringPage } from "./firing";

/** A server that folds the events it is sent. */
function forge(start: Partial<Firing> = {}) {
  let now: Firing = { ...firing, ...start };
  return serve(({ method, path, body }) => {
    if (path === "/api/v1/firings/f1") return { body: now };
    if (method !== "POST" || !path.endsWith("/events")) return undefined;
    const event = body as { kind: string; beat?: number };
    const { state } = now;
    const to = event.kind === "confirm" ? 1 : event.kind === "undo" ? -1 : 0;
    const confirmed_ms =
      to > 0 ? [...state.confirmed_ms, Date.now()] : state.confirmed_ms.slice(0, to || undefined);
    now = {
      ...now,
      state: { ...state, position: state.position + to, confirmed_ms },
      closed_at: event.kind === "close" ? "2026-11-25T10:00:00Z" : undefined,
    };
    return { body: now };
  });
}

function open() {
  show(
    <Routes>
      <Route path="/firings/:id" element={<FiringPage />} />
      <Route path="/blades/:id/readings" element={<p>the readings</p>} />
    </Routes>,
    "/firings/f1",
  );
}

const sent = (asked: Asked[], kind: string) =>
  asked.filter((a) => a.method === "POST" && (a.body as { kind?: string }).kind === kind);

describe("the firing view", () => {
  it("goes beat by beat with the space bar and back with U", async () => {
    const asked = forge();
    open();
    await screen.findByRole("button", { name: "In the fire" });
    await userEvent.keyboard(" ");
    await screen.findByRole("heading", { name: "Austenitize: heating" });
    await userEvent.keyboard(" ");
    await screen.findByText(/of 5:00/);
    screen.getByText("Oil flashes.");
    await userEvent.keyboard("u");
    await screen.findByRole("button", { name: "Back at heat: start soak" });
    expect(sent(asked, "undo")[0]?.body).toMatchObject({ beat: 1 });
    const ids = asked.filter((a) => a.method === "POST").map((a) => (a.body as { id: string }).id);
    expect(new Set(ids).size).toBe(ids.length);
  });

  it("keeps what went otherwise", async () => {
    const asked = forge({ state: { ...firing.state, position: 2, confirmed_ms: [1, 2] } });
    open();
    await userEvent.click(await screen.findByRole("button", { name: "It went otherwise" }));
    const keep = screen.getByRole<HTMLButtonElement>("button", { name: "Keep it" });
    expect(keep.disabled).toBe(true);
    await userEvent.type(screen.getByLabelText("Temperature"), "1530F");
    await userEvent.type(screen.getByLabelText("Lasted"), "9 min");
    await userEvent.type(screen.getByLabelText("Remark"), "door left open ");
    await userEvent.click(keep);
    await waitFor(() => expect(sent(asked, "say")).toHaveLength(1));
    expect(sent(asked, "say")[0]?.body).toMatchObject({
      step: 1,
      temperature_c: expect.closeTo(832.2, 1),
      lasted_s: 540,
      note: "door left open ",
    });
    // Space in the remark was a space, not the big action.
    expect(sent(asked, "confirm")).toHaveLength(0);
  });

  it("closes when all is done and goes to the readings", async () => {
    forge({ state: { ...firing.state, position: 3, confirmed_ms: [1, 2, 3] } });
    open();
    await userEvent.click(await screen.findByRole("button", { name: "Close the firing" }));
    await screen.findByText("the readings");
  });

  it("calls out an untempered blade and refuses nothing silently", async () => {
    const state = { ...firing.state, position: 3, confirmed_ms: [1, 2, 3] };
    serve(({ method, path }) => {
      if (path === "/api/v1/firings/f1") {
        return {
          body: { ...firing, state: { ...state, untempered_since_ms: Date.now() - 2_400_000 } },
        };
      }
      if (method === "POST") {
        return {
          status: 409,
          body: { status: 409, title: "x", detail: "This firing is already closed." },
        };
      }
      return undefined;
    });
    open();
    await screen.findByText("Hard and untempered for 40 min.");
    await userEvent.keyboard(" ");
    expect((await screen.findByRole("alert")).textContent).toContain("already closed");
  });
});
