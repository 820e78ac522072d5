import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { WholeBlade } from "../api/client";
import { predicted, show, steps } from "../testing/shop.test";
import { Outcomes } from "./outcomes";

const interval = (middle: number) => ({ middle, low: middle - 1, high: middle + 1 });

const whole: WholeBlade = {
  hamon: {
    points: [{ x_mm: 20, height_mm: 12, low_mm: 9, high_mm: 15 }],
    height_mm: 12,
    band_mm: 4,
    liveliness: 0.5,
  },
  martensite_percent_middle: 40,
  bend: {
    sori_mm: -0.8,
    side_mm_per_10_percent: 0.2,
    side_over_tolerance_probability: 0.04,
    tolerance_mm: 0.9,
    side_ninety_mm: 0.4,
    parts: [
      { driver: "skin", mm: 0.3, times: 1 },
      { driver: "lean", mm: 0.1, times: 1.4 },
    ],
    help: { remedy: "coat", probability: 0.01 },
  },
  crack: { probability: 0.12, low: 0.05, high: 0.25 },
  grain_astm: 9.4,
  decarburization_mm: 0.06,
  soak: { edge_s: 200, spine_s: 320, ready_after_s: 340, soak_s: 300 },
  ranges: {
    grain_astm: interval(9.4),
    decarburization_mm: interval(0.06),
    martensite_percent_middle: interval(40),
    sori_mm: interval(-0.8),
    hamon_mm: interval(12),
  },
  outcome_reasons: [
    { about: "crack", code: "crack_cause", cause: "severe_medium", odds: 2.5, learned: false },
    { about: "bend", code: "curves", sori_mm: -0.8, learned: false },
  ],
};

const gauge = (name: string) => screen.getByRole("region", { name });
const part = (of: Partial<WholeBlade>) => (
  <Outcomes prediction={{ ...predicted(steps), ...whole, ...of }} wanted={[59, 61]} readings={[]} />
);

describe("the outcomes", () => {
  it("say which way it bends, what may crack and why", async () => {
    show(part({}));
    expect(within(gauge("Bend")).getByText("0.8 mm to the edge")).toBeTruthy();
    expect(within(gauge("Crack")).getByText("12 %")).toBeTruthy();
    expect(within(gauge("Hamon above edge")).getByText("12.0 mm")).toBeTruthy();
    expect(within(gauge("Grain")).getByText("9.4 ASTM")).toBeTruthy();
    await userEvent.click(within(gauge("Bend")).getByRole("button", { name: "why" }));
    expect(screen.getByText(/^The spine ends longer than the edge: it curves 0.8 mm/)).toBeTruthy();
    expect(
      screen.getByText(/^Sideways: 4 % chance of more than 0.9 mm, mostly carbon/),
    ).toBeTruthy();
    await userEvent.click(within(gauge("Crack")).getByRole("button", { name: "why" }));
    expect(screen.getByText(/The medium still takes heat fast.*Odds × 2.5/)).toBeTruthy();
  });

  it("say so when there is no line, no bend to speak of and next to no risk", () => {
    show(
      part({
        hamon: { none: { code: "hardens_through" } },
        bend: { ...whole.bend, sori_mm: 0.01 },
        crack: { probability: 0.004, low: 0, high: 0.01 },
      }),
    );
    expect(within(gauge("Hamon above edge")).getByText("none")).toBeTruthy();
    expect(within(gauge("Bend")).getByText("straight")).toBeTruthy();
    expect(within(gauge("Bend")).queryByText(/^Sideways/)).toBeNull();
    expect(within(gauge("Crack")).getByText("under 1 %")).toBeTruthy();
  });

  it("leave out what was not computed", () => {
    show(<Outcomes prediction={predicted(steps)} wanted={[59, 61]} readings={[]} />);
    expect(screen.queryByRole("region", { name: "Crack" })).toBeNull();
    expect(screen.getByRole("region", { name: "Hardness" })).toBeTruthy();
  });

  it("say without being asked when it may well warp, of what and what helps", () => {
    show(part({ bend: { ...whole.bend, side_over_tolerance_probability: 0.2 } }));
    expect(
      within(gauge("Bend")).getByText(
        "Sideways: 20 % chance of more than 0.9 mm, mostly carbon lost deeper on one face. Coated or in foil: 1 %.",
      ),
    ).toBeTruthy();
  });

  it("say what a clamp in the temper leaves of that", () => {
    const clamped = {
      shim_mm: 1.5,
      takes_out: 0.4,
      over_tolerance_probability: 0.03,
      ninety_mm: 0.5,
    };
    show(part({ bend: { ...whole.bend, side_over_tolerance_probability: 0.2, clamped } }));
    expect(
      within(gauge("Bend")).getByText(
        /Clamped in the temper 1\.5 mm past straight it is 3 %; nine in ten end within 0\.5 mm\./,
      ),
    ).toBeTruthy();
  });
});
