import { describe, expect, it } from "vitest";
import type { Step } from "../api/client";
import { axis, layout, line } from "./path-layout";

const steps: Step[] = [
  { kind: "normalize", temperature_c: 870, hold_s: 120 },
  { kind: "austenitize", temperature_c: 815, soak_s: 300 },
  {
    kind: "quench",
    stages: [
      { medium: "water", bath_c: 25, for_s: 2 },
      { medium: "fast_oil", bath_c: 50 },
    ],
  },
  { kind: "sub_zero", temperature_c: -75, hold_s: 7200, wait_s: 0 },
  { kind: "temper", temperature_c: 205, hold_s: 7200, times: 2 },
];

describe("the heat path", () => {
  const segments = layout(steps, 50, 900);
  it("gives every step its own width inside the drawing", () => {
    expect(segments).toHaveLength(steps.length);
    for (const [i, s] of segments.entries()) {
      expect(s.x1 - s.x0).toBeGreaterThan(40);
      expect(s.x0).toBeCloseTo(segments[i - 1]?.x1 ?? 50);
    }
    expect(segments.at(-1)?.x1).toBeLessThanOrEqual(950.001);
  });
  it("never goes back in time", () => {
    const xs = line(segments, 50).map(([x]) => x);
    for (let i = 1; i < xs.length; i++) expect(xs[i]).toBeGreaterThanOrEqual(xs[i - 1] ?? 0);
  });
  it("reaches what each step says", () => {
    const hottest = (i: number) => Math.max(...(segments[i]?.corners ?? []).map(([, t]) => t));
    expect(hottest(1)).toBe(815);
    expect(hottest(4)).toBe(205);
    expect(Math.min(...(segments[3]?.corners ?? []).map(([, t]) => t))).toBe(-75);
  });
  it("draws one hump for each temper", () => {
    expect(segments[4]?.corners.filter(([, t]) => t === 205)).toHaveLength(4);
  });
});

describe("the temperature axis", () => {
  const y = axis(20, 260, 950, -75);
  it("is continuous and falls everywhere", () => {
    let before = Number.POSITIVE_INFINITY;
    for (let t = -75; t <= 950; t += 5) {
      expect(y(t)).toBeLessThan(before);
      before = y(t);
    }
    expect(y(950)).toBeCloseTo(20);
    expect(y(-75)).toBeCloseTo(260);
  });
  it("gives tempering more room than its share", () => {
    expect(y(0) - y(320)).toBeGreaterThan((y(320) - y(950)) * 0.5);
  });
});
