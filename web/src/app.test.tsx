import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { App } from "./app";
import { blade, firing, serve } from "./testing/shop.test";

const open = () =>
  render(
    <QueryClientProvider
      client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}
    >
      <App />
    </QueryClientProvider>,
  );

beforeEach(() => window.history.replaceState(null, "", "/"));

describe("the application", () => {
  it("asks to sign in when nobody is", async () => {
    serve(({ path }) =>
      path === "/api/v1/session"
        ? { status: 401, body: { status: 401, title: "No", detail: "Sign in." } }
        : undefined,
    );
    open();
    expect(await screen.findByRole("heading", { name: "Sign in" })).toBeTruthy();
  });

  it("says so when the server does not answer, and does not ask to sign in", async () => {
    serve(({ path }) =>
      path === "/api/v1/session"
        ? { status: 500, body: { status: 500, title: "Fault", detail: "Something broke here." } }
        : undefined,
    );
    open();
    expect(await screen.findByText("Something broke here.")).toBeTruthy();
    expect(screen.queryByRole("heading", { name: "Sign in" })).toBeNull();
  });

  it("leads to the fire that burns, and U changes the units anywhere", async () => {
    serve(({ method, path }) =>
      method === "GET" && path === "/api/v1/blades"
        ? { body: [{ ...blade, firing_open: true, firing_id: "f1", firing_state: firing.state }] }
        : undefined,
    );
    open();
    const lights = await screen.findByRole("link", { name: "Lights out" });
    expect(lights.getAttribute("href")).toBe("/firings/f1");
    expect(screen.getByRole("button", { name: "°C mm" })).toBeTruthy();
    await userEvent.keyboard("u");
    expect(screen.getByRole("button", { name: "°F in" })).toBeTruthy();
  });

  it("has a way home from nowhere", async () => {
    window.history.replaceState(null, "", "/nowhere");
    serve();
    open();
    expect(await screen.findByRole("link", { name: "To the rack" })).toBeTruthy();
  });
});
