import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Plan, Step } from "../api/client";
import { blade, plan, predicted, serve, show, steps } from "../testing/shop.test";
import { PlanTab } from "./plan";

const path = () => screen.getByRole("listbox");
const chosen = () => within(path()).getByRole("option", { selected: true });
const hardness = () => screen.getByRole("region", { name: "Hardness" });
const saves = (asked: ReturnType<typeof serve>) => asked.filter((a) => a.method === "PUT");

describe("the plan", () => {
  it("is walked and nudged by keyboard, and the outcome follows", async () => {
    const asked = serve(({ method, body }) =>
      method === "PUT" ? { body: { ...plan, steps: (body as Plan).steps, version: 4 } } : undefined,
    );
    show(<PlanTab blade={blade} plan={plan} />);
    await waitFor(() => within(hardness()).getByText("61.5 HRC"));
    expect(chosen().textContent).toContain("Austenitize");
    path().focus();
    await userEvent.keyboard("{ArrowRight}{ArrowRight}{ArrowRight}");
    expect(chosen().textContent).toContain("Temper");
    await userEvent.keyboard("{ArrowUp}{ArrowUp}");
    expect(chosen().textContent).toContain("215 °C");
    await waitFor(() => within(hardness()).getByText("61.0 HRC"));
    await userEvent.keyboard("{Alt>}{ArrowDown}{/Alt}");
    expect(chosen().textContent).not.toContain("2 × 2 h");
    await userEvent.keyboard("{Control>}z{/Control}");
    expect(chosen().textContent).toContain("2 × 2 h");
    await waitFor(() => expect(saves(asked).length).toBeGreaterThan(0), { timeout: 3000 });
    const last = saves(asked).at(-1)?.body as { steps: Step[]; version: number };
    expect(last.version).toBe(3);
    expect(last.steps[3]).toMatchObject({ temperature_c: 215, hold_s: 7200 });
  });

  it("adds, doubles and removes steps", async () => {
    serve(({ method }) => (method === "PUT" ? { body: plan } : undefined));
    show(<PlanTab blade={blade} plan={plan} />);
    path().focus();
    await userEvent.keyboard("{Home}d");
    expect(within(path()).getAllByRole("option")).toHaveLength(5);
    await userEvent.keyboard("{Delete}");
    expect(within(path()).getAllByRole("option")).toHaveLength(4);
    await userEvent.keyboard("{End}");
    await userEvent.selectOptions(screen.getByLabelText("Add a step after this one"), "sub_zero");
    expect(chosen().textContent).toContain("Sub-zero");
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    expect(within(path()).getAllByRole("option")).toHaveLength(4);
    await userEvent.click(screen.getByRole("button", { name: "Redo" }));
    expect(within(path()).getAllByRole("option")).toHaveLength(5);
  });

  it("shows warnings by number and applies their fix", async () => {
    serve(({ method }) => (method === "PUT" ? { body: plan } : undefined));
    show(<PlanTab blade={blade} plan={plan} />);
    await userEvent.click(await screen.findByRole("button", { name: "Set 800 °C" }));
    const first = within(path()).getAllByRole("option")[0] as HTMLElement;
    expect(first.textContent).toContain("800 °C");
    expect(first.getAttribute("aria-label")).toContain("warning 1");
    await userEvent.click(screen.getByRole("button", { name: "Set 235 °C" }));
    expect(within(path()).getAllByRole("option")[3]?.textContent).toContain("235 °C");
  });

  it("is saved by itself when the server is back", async () => {
    let away = true;
    const asked = serve(({ method, body }) => {
      if (method !== "PUT") return undefined;
      if (away) return { status: 502, body: "<h1>Bad Gateway</h1>" };
      return { body: { ...plan, steps: (body as Plan).steps, version: 4 } };
    });
    show(<PlanTab blade={blade} plan={plan} />);
    path().focus();
    await userEvent.keyboard("{End}{ArrowUp}");
    expect(await screen.findByText("not saved", {}, { timeout: 3000 })).toBeTruthy();
    expect(screen.getByRole("alert").textContent).toContain("what you planned is still here");
    away = false;
    expect(await screen.findByText("saved", {}, { timeout: 6000 })).toBeTruthy();
    expect(screen.queryByRole("alert")).toBeNull();
    const last = saves(asked).at(-1)?.body as Plan;
    expect(last.steps[3]).toMatchObject({ kind: "temper", temperature_c: 210 });
  });

  it("tells of a plan that cannot be saved and keeps it", async () => {
    serve(({ method }) =>
      method === "PUT"
        ? {
            status: 422,
            body: {
              status: 422,
              title: "x",
              detail: "The plan has no quench.",
              fields: [{ field: "steps", message: "The plan has no quench." }],
            },
          }
        : undefined,
    );
    show(<PlanTab blade={blade} plan={plan} />);
    path().focus();
    await userEvent.keyboard("{ArrowRight}{Delete}");
    const alert = await screen.findByRole("alert", {}, { timeout: 3000 });
    expect(alert.textContent).toContain("The plan has no quench.");
    expect(within(path()).getAllByRole("option")).toHaveLength(3);
  });

  it("shows what someone else saved and loses nothing", async () => {
    const theirs = { ...plan, version: 9, steps: steps.slice(1) };
    let stale = true;
    const asked = serve(({ method, body }) => {
      if (method !== "PUT") return undefined;
      if (stale) {
        stale = false;
        return {
          status: 409,
          body: { status: 409, title: "x", detail: "Someone changed this.", current: theirs },
        };
      }
      return { body: { ...plan, steps: (body as Plan).steps, version: 10 } };
    });
    show(<PlanTab blade={blade} plan={plan} />);
    path().focus();
    await userEvent.keyboard("{ArrowUp}");
    const alert = await screen.findByRole("alert", {}, { timeout: 3000 });
    expect(alert.textContent).toContain("theirs is Austenitize, 815 °C");
    expect(chosen().textContent).toContain("820 °C");
    await userEvent.click(screen.getByRole("button", { name: "Keep mine" }));
    await waitFor(() => expect(saves(asked)).toHaveLength(2), { timeout: 3000 });
    expect(saves(asked)[1]?.body).toMatchObject({ version: 9 });
  });

  it("stays as it was once frozen", async () => {
    const asked = serve(({ method, body }) =>
      method === "PUT" ? { body: { ...plan, steps: (body as Plan).steps, version: 1 } } : undefined,
    );
    show(<PlanTab blade={blade} plan={{ ...plan, frozen_at: "2026-11-25T09:00:00Z" }} />);
    path().focus();
    await userEvent.keyboard("{ArrowUp}{Delete}d");
    expect(within(path()).getAllByRole("option")).toHaveLength(4);
    expect(chosen().textContent).toContain("815 °C");
    expect(screen.queryByRole("button", { name: "Set 800 °C" })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Make a new plan from it" }));
    await waitFor(() => expect(saves(asked)[0]?.body).toMatchObject({ version: 0 }));
  });

  it("changes a quench into two media and back", async () => {
    serve(({ method }) => (method === "PUT" ? { body: plan } : undefined));
    show(<PlanTab blade={blade} plan={plan} />);
    path().focus();
    await userEvent.keyboard("{ArrowRight}");
    await userEvent.selectOptions(screen.getByLabelText("Medium 1"), "water");
    expect(chosen().textContent).toContain("water 25 °C");
    await userEvent.click(screen.getByRole("button", { name: "then another medium" }));
    expect(chosen().textContent).toContain("water 2 s");
    expect(chosen().textContent).toContain("then fast oil");
    const time = screen.getByLabelText("Time in medium 1");
    await userEvent.clear(time);
    await userEvent.type(time, "3 s{Enter}");
    expect(chosen().textContent).toContain("water 3 s");
    await userEvent.click(screen.getByRole("button", { name: "drop the last" }));
    expect(chosen().textContent).toContain("water 25 °C");
  });

  it("says when the soak counts", async () => {
    const soak = {
      about: "soak" as const,
      code: "soak_from",
      furnace: "kiln",
      edge_s: 250,
      spine_s: 400,
      ready_after_s: 430,
      soak_s: 300,
    };
    serve(({ path }) =>
      path === "/api/v1/predict"
        ? { body: { ...predicted(steps), outcome_reasons: [soak] } }
        : undefined,
    );
    show(<PlanTab blade={blade} plan={plan} />);
    expect(
      await screen.findByText(/the thickest part after 7 min: count the soak from then, 5 min/),
    ).toBeTruthy();
  });

  it("proposes the one change that helps most, with what it would teach", async () => {
    const next = {
      fix: { change: "set" as const, step: 1, kind: "austenitize", field: "soak_s", value: 600 },
      low_hrc: 59,
      high_hrc: 61,
      chance_now: 0.3,
      chance_then: 0.6,
      teaches: "solution",
    };
    const asked = serve(({ path }) =>
      path === "/api/v1/predict"
        ? { body: { ...predicted(steps), temper_for_target: undefined, next } }
        : undefined,
    );
    show(<PlanTab blade={blade} plan={plan} />);
    await userEvent.click(await screen.findByRole("button", { name: "Soak 10 min" }));
    await waitFor(() => {
      const last = asked.filter((a) => a.path === "/api/v1/predict").at(-1);
      expect(last?.body).toMatchObject({ steps: [{}, { soak_s: 600 }, {}, {}] });
    });
  });

  it("offers what would help most, with one press", async () => {
    const change = {
      change: "replace",
      at: 2,
      with: { kind: "quench", stages: [{ medium: "water", bath_c: 25 }] },
    };
    const asked = serve(({ method, path }) => {
      if (path === "/api/v1/help") {
        const line = (height_mm: number) => ({ code: "line", height_mm });
        const costs = [{ code: "crack", probability: 0.09 }];
        return {
          body: [{ about: "hamon", from: line(4), to: line(12), costs, share: 0.9, fix: change }],
        };
      }
      return method === "PUT" ? { body: plan } : undefined;
    });
    show(<PlanTab blade={blade} plan={plan} />);
    await userEvent.click(await screen.findByRole("button", { name: "Quench in water" }));
    const quench = within(path()).getAllByRole("option")[2] as HTMLElement;
    expect(quench.textContent).toContain("water");
    const body = asked.find((a) => a.path === "/api/v1/help")?.body;
    expect(body).toMatchObject({ blade_id: blade.id, target_hrc: { low: 59, high: 61 } });
  });

  it("holds every kind of step, each with its own fields and its caution", async () => {
    serve(({ method }) => (method === "PUT" ? { body: plan } : undefined));
    show(<PlanTab blade={blade} plan={plan} />);
    path().focus();
    const add = screen.getByLabelText("Add a step after this one");
    for (const [kind, words] of [
      ["coat", "Coat"],
      ["pouch", "Pouch"],
      ["clay", "Clay and dry"],
      ["preheat", "Preheat"],
      ["refine", "Refine"],
      ["straighten", "Straighten"],
      ["cool", "Cool"],
      ["torch_temper", "Torch temper"],
      ["check", "Check"],
    ] as const) {
      await userEvent.selectOptions(screen.getByLabelText("Add a step after this one"), kind);
      expect(chosen().textContent).toContain(words);
    }
    expect(add).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText("Look at"), "cracked");
    expect(chosen().textContent).toContain("cracked?");
    path().focus();
    await userEvent.keyboard("{ArrowLeft}");
    await userEvent.selectOptions(screen.getByLabelText("Part"), "tang");
    expect(chosen().textContent).toContain("tang");
    expect(screen.getByText(/Edge in water/)).toBeTruthy();
    await userEvent.keyboard("{ArrowUp}");
  });
});
