import { describe, expect, it } from "vitest";
import { type Kind, show } from "../quantity/parse";
import { spread } from "./heat-path";
import { stepSentence } from "./step-words";

const metric = (kind: Kind, value: number) => show(kind, value, { temperature: "c", length: "mm" });

describe("labels", () => {
  it("never collide", () => {
    const out = spread([100, 101, 140, 102], 13, 250);
    const sorted = [...out].sort((a, b) => a - b);
    for (let i = 1; i < sorted.length; i++) {
      expect((sorted[i] ?? 0) - (sorted[i - 1] ?? 0)).toBeGreaterThanOrEqual(13);
    }
    expect(out[0]).toBe(100);
  });
  it("stay above the floor", () => {
    expect(Math.max(...spread([248, 249], 13, 250))).toBeLessThanOrEqual(250);
  });
});

describe("a step in words", () => {
  it("says medium, time and repeats", () => {
    expect(
      stepSentence(
        {
          kind: "quench",
          stages: [
            { medium: "water", bath_c: 25, for_s: 2 },
            { medium: "fast_oil", bath_c: 50 },
          ],
        },
        metric,
      ),
    ).toBe("Quench, water 2 s, then fast oil");
    expect(
      stepSentence({ kind: "temper", temperature_c: 205, hold_s: 7200, times: 2 }, metric),
    ).toBe("Temper, 205 °C, 2 × 2 h");
  });
});
