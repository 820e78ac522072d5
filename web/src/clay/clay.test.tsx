import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { BladeClay, Clay } from "../api/client";
import { blade, maps, plan, serve, show } from "../testing/shop.test";
import { ClayTab } from "./clay";
import { redrawn } from "./line";
import { laid, TEMPLATES, type Template } from "./templates";

const bare: BladeClay = {
  clay: { left: {}, right: null, mix: "refractory_mix" },
  wanted: [],
  version: 0,
};
type Body = { clay: Clay; wanted: number[][]; version: number };

function shop(conflict = false) {
  let kept = bare;
  return serve(({ method, path, body }) => {
    if (path === "/api/v1/simulate") return { body: maps };
    if (path === "/api/v1/advise/clay") {
      const clay = {
        left: { band: { from_edge_mm: 9, thickness_mm: 1.8 } },
        right: null,
        mix: "refractory_mix",
      };
      return {
        body: { clay, border: [], thickness_mm: 1.8, off_mm: 0.4 },
      };
    }
    if (!path.endsWith("/clay")) return undefined;
    if (method === "GET") return { body: kept };
    const sent = body as Body;
    if (conflict && sent.version === 0) {
      const current = { clay: { left: { strokes: [] } }, wanted: [[10, 7]], version: 4 };
      return { status: 409, body: { status: 409, title: "", detail: "changed", current } };
    }
    kept = { ...sent, version: sent.version + 1 };
    return { body: kept };
  });
}

const saves = (asked: ReturnType<typeof serve>) =>
  asked.filter((a) => a.method === "PUT").map((a) => a.body as Body);

describe("clay", () => {
  it("is laid on by keyboard, saved, and taken back", async () => {
    const asked = shop();
    show(<ClayTab blade={blade} plan={plan} />);
    (await screen.findByRole("application")).focus();
    await userEvent.keyboard(" {ArrowRight}{Shift>}{ArrowRight}{/Shift}{ArrowUp} ");
    await waitFor(() => expect(saves(asked)).toHaveLength(1), { timeout: 3000 });
    const stroke = saves(asked)[0]?.clay.left.strokes?.[0];
    expect(stroke).toMatchObject({ width_mm: 8, thickness_mm: 2 });
    expect(stroke?.points).toHaveLength(4);
    expect(screen.getByText(/Brush up at/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    await waitFor(() => expect(saves(asked).at(-1)?.clay.left.strokes ?? []).toHaveLength(0), {
      timeout: 3000,
    });
  });

  it("says where the line will lie, and finds the clay for the one that is wanted", async () => {
    const asked = shop();
    show(<ClayTab blade={blade} plan={plan} />);
    expect(await screen.findByText(/The line lies 12.0 mm above the edge/)).toBeTruthy();
    const find = screen.getByRole("button", { name: "Find the clay" });
    expect(find.hasAttribute("disabled")).toBe(true);
    const middle = screen.getByLabelText("At the middle");
    await userEvent.clear(middle);
    await userEvent.type(middle, "9{Enter}");
    await userEvent.click(find);
    expect(
      await screen.findByText(/^1.8 mm of clay on both faces brings the line within 0.4 mm/),
    ).toBeTruthy();
    const question = asked.find((a) => a.path === "/api/v1/advise/clay")?.body;
    expect(question).toMatchObject({
      request: { blade_id: blade.id },
      thinnest_mm: 0.8,
      brush_mm: 8,
    });
    await waitFor(() => expect(saves(asked).at(-1)?.clay.left.band?.from_edge_mm).toBe(9), {
      timeout: 3000,
    });
    expect(
      saves(asked)
        .at(-1)
        ?.wanted.some(([, h]) => h === 9),
    ).toBe(true);
  });

  it("paints the faces apart when they are not the same", async () => {
    const asked = shop();
    show(<ClayTab blade={blade} plan={plan} />);
    await userEvent.click(await screen.findByLabelText("Both faces the same"));
    await userEvent.click(screen.getByLabelText("Right face"));
    await userEvent.click(screen.getByRole("button", { name: "Lay it on" }));
    await waitFor(() => expect(saves(asked).at(-1)?.clay.right?.band).toBeTruthy(), {
      timeout: 3000,
    });
    expect(saves(asked).at(-1)?.clay.left.band).toBeFalsy();
  });

  it("that no step lays says so, and goes into the plan before the last heat", async () => {
    const asked = shop();
    show(<ClayTab blade={blade} plan={plan} />);
    await userEvent.click(await screen.findByRole("button", { name: "Lay it on" }));
    await screen.findByText(/everywhere else it is predicted bare/);
    await userEvent.click(screen.getByRole("button", { name: "Put it in the plan" }));
    await waitFor(() => expect(asked.some((a) => a.path.endsWith("/plan"))).toBe(true));
    const put = asked.find((a) => a.method === "PUT" && a.path.endsWith("/plan"));
    const stored = put?.body as typeof plan | undefined;
    expect(stored?.steps.map((s) => s.kind)).toEqual([
      "normalize",
      "clay",
      "austenitize",
      "quench",
      "temper",
    ]);
  });

  it("is never painted over somebody else's", async () => {
    const asked = shop(true);
    show(<ClayTab blade={blade} plan={plan} />);
    await userEvent.click(await screen.findByRole("button", { name: "Lay it on" }));
    await userEvent.click(await screen.findByRole("button", { name: "Keep mine" }));
    await waitFor(() => expect(saves(asked).at(-1)?.version).toBe(4), { timeout: 3000 });
    expect(saves(asked).at(-1)?.clay.left.band).toBeTruthy();
  });

  it("replaces only the part of a line that was drawn anew", () => {
    const old: [number, number][] = [
      [10, 8],
      [60, 8],
      [120, 8],
    ];
    const drawn: [number, number][] = [
      [80, 15],
      [40, 15],
      [41, 15],
      [60, 0],
    ];
    const now = redrawn(old, drawn, (x) => (x > 70 ? undefined : 3));
    expect(now).toEqual([
      [10, 8],
      [40, 12],
      [60, 0.5],
      [120, 8],
    ]);
  });

  it.each(Object.keys(TEMPLATES) as Template[])("has a template %s that fits any blade", (name) => {
    for (const [from, thickness] of [
      [12, 2],
      [0, 10],
      [300, 0.1],
    ] as const) {
      const face = laid(name, { outline: blade.outline, length: 190, width: 28, from, thickness });
      const strokes = face.strokes ?? [];
      expect(face.band || strokes.length > 0).toBeTruthy();
      for (const s of strokes) {
        expect(s.width_mm).toBeGreaterThanOrEqual(1);
        expect(s.thickness_mm).toBeLessThanOrEqual(10);
        expect(s.points.flat().every(Number.isFinite)).toBe(true);
        expect(s.points.length).toBeLessThanOrEqual(200);
      }
    }
  });
});
