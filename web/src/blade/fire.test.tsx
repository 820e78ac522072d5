import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, type MockInstance, vi } from "vitest";
import type { Firing, Step } from "../api/client";
import { journal } from "../firing/journal";
import { blade, firing, plan, serve, session, show, steps } from "../testing/shop.test";
import { FireTab } from "./fire";

const place = (of: typeof plan | undefined) => (
  <Routes>
    <Route path="/" element={<FireTab blade={blade} plan={of} />} />
    <Route path="/firings/:id" element={<p>by the fire</p>} />
  </Routes>
);

describe("before the fire", () => {
  // What is to be kept would be sent in its own time, while another test speaks to its server.
  let kept: MockInstance<typeof journal.add>;
  beforeEach(() => {
    kept = vi.spyOn(journal, "add").mockResolvedValue();
  });
  afterEach(() => kept.mockRestore());

  it("shows the steps, what is predicted, the warnings and the caution, then starts", async () => {
    const asked = serve(({ method, path }) =>
      method === "POST" && path.endsWith("/firings") ? { body: firing } : undefined,
    );
    show(place(plan));
    expect(await screen.findByText(/^This normalizing heat is 30 °C hotter/)).toBeTruthy();
    expect(screen.getByText(/no water in the oil/)).toBeTruthy();
    expect(screen.getByText(/tempered/).textContent).toContain("61.5 HRC");
    await userEvent.click(screen.getByRole("button", { name: "Start firing" }));
    expect(await screen.findByText("by the fire")).toBeTruthy();
    const started = asked.find((a) => a.method === "POST" && a.path.endsWith("/firings"));
    expect(started?.body).toMatchObject({ plan_version: plan.version });
  });

  it("writes down who quenches: the one signed in, or who quenched last, or another", async () => {
    localStorage.removeItem("vatten.operator");
    serve(({ method, path }) => {
      if (path === "/api/v1/session") return { body: session };
      if (path === "/api/v1/operators") return { body: ["Tove", "Aksel"] };
      return method === "POST" && path.endsWith("/firings") ? { body: firing } : undefined;
    });
    show(place(plan));
    const who = await screen.findByLabelText<HTMLInputElement>("Who quenches");
    await waitFor(() => expect(who.value).toBe("Ina"));
    await userEvent.clear(who);
    await userEvent.type(who, "Aksel");
    await userEvent.click(screen.getByRole("button", { name: "Start firing" }));
    await screen.findByText("by the fire");
    expect(kept.mock.calls).toEqual([
      [
        [
          {
            firing: firing.id,
            body: expect.objectContaining({
              kind: "operator",
              name: "Aksel",
              at: expect.any(String),
            }),
          },
        ],
      ],
    ]);
    expect(localStorage.getItem("vatten.operator")).toBe("Aksel");
  });

  it("does not start a plan that changed meanwhile", async () => {
    serve(({ method, path }) =>
      method === "POST" && path.endsWith("/firings")
        ? { status: 409, body: { status: 409, title: "Changed", detail: "x", fields: [] } }
        : undefined,
    );
    show(place(plan));
    await userEvent.click(await screen.findByRole("button", { name: "Start firing" }));
    expect(await screen.findByText(/The plan changed since you looked/)).toBeTruthy();
  });

  it("asks for a plan when there is none", async () => {
    serve();
    show(place(undefined));
    expect(await screen.findByRole("link", { name: "Make one" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Start firing" })).toBeNull();
  });

  it("tells of earlier firings where they differ from the plan", async () => {
    const soaked = steps.map((s) => (s.kind === "austenitize" ? { ...s, soak_s: 480 } : s));
    const last = steps.findIndex((s) => s.kind === "temper");
    const temper = { ...(steps[last] as Step), times: 1 };
    const done: Firing["done"] = {
      // The second round went cooler: each is told for itself.
      steps: [...soaked.slice(0, last), temper, { ...temper, temperature_c: 195 } as Step],
      planned: [...soaked.keys(), last],
      doubts: [
        { doubt: "not_pressed", step: 0 },
        { doubt: "clock", step: last, round: 1, pressed_s: 90_000, counted_s: 7200 },
      ],
      untempered_s: 5400,
    };
    const past = { ...firing, done, closed_at: "2026-11-25T12:00:00Z" };
    serve(({ method, path }) =>
      method === "GET" && path.endsWith("/firings") ? { body: [past] } : undefined,
    );
    show(place({ ...plan, frozen_at: "2026-11-25T09:00:00Z" }));
    expect(await screen.findByText(/Planned .*5 min.*done .*8 min/)).toBeTruthy();
    expect(screen.getByText(/done .*205 °C.*, then .*195 °C/)).toBeTruthy();
    expect(screen.getByText(/was never pressed/)).toBeTruthy();
    expect(screen.getByText(/round 2, was pressed for 25 h.*2 h counts/)).toBeTruthy();
    expect(screen.getByText(/untempered for 90 min/)).toBeTruthy();
    expect(screen.getByRole("link", { name: "make a new plan from it" })).toBeTruthy();
  });
});
