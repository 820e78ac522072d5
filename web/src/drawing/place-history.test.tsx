import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { PlaceHistory } from "../api/client";
import { blade, plan, serve, show } from "../testing/shop.test";
import { say } from "../words/quantities";
import { became, PlaceThrough, passes } from "./place-history";

const spot = (temperature_c: number, martensite: number, stress_mpa: number) => ({
  temperature_c,
  pearlite: 0.04,
  bainite: 0,
  martensite,
  stress_mpa,
});

const history: PlaceHistory = {
  at_mm: [81, 7.4],
  thickness_mm: 2.1,
  clay_mm: 0,
  martensite_start_c: 220,
  moments: [
    { time_s: -2, face: spot(800, 0, 0), middle: spot(805, 0, 0), cooling_k_s: 0 },
    { time_s: 0.8, face: spot(500, 0, 60), middle: spot(540, 0, -40), cooling_k_s: 95 },
    { time_s: 12, face: spot(90, 0.7, -120), middle: spot(95, 0.7, 3), cooling_k_s: 20 },
    { time_s: 60, face: spot(20, 0.91, -80), middle: spot(20, 0.91, 40), cooling_k_s: 1 },
  ],
  starts: [
    { temperature_c: 700, pearlite_s: 90 },
    { temperature_c: 545, pearlite_s: 1.1 },
    { temperature_c: 350, bainite_s: 20 },
  ],
};

const words = say({ temperature: "c", length: "mm" });

describe("one place through the quench", () => {
  it("is told with what it became and how near it passed the start line", () => {
    expect(became(history)).toBe("91 % martensite, 5 % austenite, 4 % pearlite");
    expect(passes(history, words)).toBe(
      "It passes 545 °C, where this steel turns soonest, after 0.8 s; held there the first of it turns in 1.1 s.",
    );
    expect(passes({ ...history, starts: [] }, words)).toBe("");
    expect(became({ ...history, moments: [] })).toBe("");
  });

  it("is drawn where hardness is read, at the edge by a press, or where it was touched", async () => {
    const asked = serve(({ path }) =>
      path === "/api/v1/simulate/place" ? { body: [history] } : undefined,
    );
    const of = { blade, outline: blade.outline as [number, number][], steps: plan.steps, now: 13 };
    const { unmount } = show(<PlaceThrough {...of} pointed={null} />);
    expect(await screen.findByText(/91 % martensite/)).toBeTruthy();
    const said = screen.getByRole("region", { name: "One place through the quench" }).textContent;
    expect(said).toContain(
      "Now 90 °C at the face, pressed with 120 MPa; 95 °C in the middle, at rest",
    );
    const at = () => (asked.at(-1)?.body as { points: number[][] } | undefined)?.points[0];
    const read = at();
    await userEvent.click(screen.getByRole("radio", { name: "the edge" }));
    await screen.findByText(/91 % martensite/);
    await new Promise((done) => setTimeout(done, 200));
    expect(at()?.[1]).toBeLessThan(read?.[1] ?? 0);
    unmount();
    show(<PlaceThrough {...of} pointed={[40, 12]} />);
    await screen.findByText(/91 % martensite/);
    expect(at()).toEqual([40, 12]);
  });
});
