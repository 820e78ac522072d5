import { describe, expect, it } from "vitest";
import { blade } from "../testing/shop.test";
import { nextPlace, type Place, placesOf, readyWith } from "./along";

const place = (x: number, part: Partial<Place> = {}): Place => ({
  x,
  spine: 4,
  edge: 0.8,
  left: 28,
  right: 28,
  ...part,
});

describe("places along a blade", () => {
  it("are stored in order, with bevels only where they do not reach the spine", () => {
    const even = readyWith(blade.ready, [place(90), place(0)], blade);
    expect(even.taper.map((t) => t.x_mm)).toEqual([0, 90]);
    expect(even.bevels).toEqual([]);
    const ground = readyWith(blade.ready, [place(0, { left: 18 })], blade);
    expect(ground.bevels).toEqual([{ x_mm: 0, left_mm: 18, right_mm: 28 }]);
  });

  it("are put together from thickness and bevels measured at different places", () => {
    const ready = {
      ...blade.ready,
      taper: [
        { x_mm: 0, spine_mm: 5, edge_mm: 1 },
        { x_mm: 100, spine_mm: 3, edge_mm: 0.6 },
      ],
      bevels: [{ x_mm: 50, left_mm: 20, right_mm: 18 }],
    };
    expect(placesOf(ready, blade)).toEqual([
      { x: 0, spine: 5, edge: 1, left: 20, right: 18 },
      { x: 50, spine: 4, edge: 0.8, left: 20, right: 18 },
      { x: 100, spine: 3, edge: 0.6, left: 20, right: 18 },
    ]);
    expect(placesOf(blade.ready, blade)).toEqual([]);
  });

  it("are asked for where they tell most: heel, tip, then the widest gap", () => {
    expect(nextPlace([], blade).x).toBe(0);
    expect(nextPlace([place(0)], blade).x).toBe(171);
    const middle = nextPlace([place(0, { spine: 5 }), place(171, { spine: 3 })], blade);
    expect(middle).toMatchObject({ x: 86, spine: 4 });
  });
});
