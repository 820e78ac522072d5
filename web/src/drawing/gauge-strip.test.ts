import { describe, expect, it } from "vitest";
import { place, widened } from "./gauge-strip";

describe("the gauge strip", () => {
  it("keeps everything on its scale", () => {
    expect(widened([55, 66], [60, 62])).toEqual([55, 66]);
    expect(widened([55, 66], [43, 68])).toEqual([40, 70]);
    expect(widened([-2, 2], [-2.4, 1])).toEqual([-3, 2]);
  });
  it("places values in order and inside", () => {
    expect(place(50, [55, 66])).toBe(30);
    expect(place(70, [55, 66])).toBe(300);
    expect(place(60, [55, 66])).toBeLessThan(place(61, [55, 66]));
  });
});
