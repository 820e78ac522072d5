import { describe, expect, it } from "vitest";
import { shareOf } from "./bend-history";

describe("the way a blade bends", () => {
  it("lies over the scrubber, moment by moment", () => {
    const times = [0, 1, 3, 40];
    expect(shareOf(times, 0)).toBe(0);
    expect(shareOf(times, 1)).toBeCloseTo(1 / 3);
    expect(shareOf(times, 2)).toBeCloseTo(0.5);
    expect(shareOf(times, 40)).toBe(1);
    expect(shareOf(times, 400)).toBe(1);
    expect(shareOf([0], 5)).toBe(0);
  });
});
