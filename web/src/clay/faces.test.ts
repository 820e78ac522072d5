import { describe, expect, it } from "vitest";
import type { Clay } from "../api/client";
import { isPainted, joined, stroked, swapped } from "./faces";

const band = (mm: number) => ({ band: { from_edge_mm: mm, thickness_mm: 2 } });
const mix = "charcoal_stone";
const same: Clay = { left: band(9), right: null, mix };
const apart: Clay = { left: band(9), right: band(4), mix };
const brush = { width: 8, thickness: 2 };

describe("the two faces", () => {
  it("stay the same, or are painted apart", () => {
    expect(stroked(same, true, [[1, 1]], brush).right).toBeNull();
    const right = stroked(apart, true, [[1, 1]], brush);
    expect(right.right?.strokes).toHaveLength(1);
    expect(right.left).toEqual(band(9));
  });

  it("are taken apart, joined as the one that is seen, and swapped", () => {
    expect(joined(same, false, false)).toEqual({ left: band(9), right: band(9), mix });
    expect(joined(apart, true, true)).toEqual({ left: band(4), right: null, mix });
    expect(swapped(apart)).toEqual({ left: band(4), right: band(9), mix });
  });

  it("bear clay when any of it was not wiped off", () => {
    expect(isPainted({ left: {}, right: null, mix })).toBe(false);
    expect(isPainted(stroked({ left: {}, right: null, mix }, false, [[1, 1]], brush))).toBe(true);
    const wiped = stroked({ left: {}, right: null, mix }, false, [[1, 1]], {
      width: 8,
      thickness: 0,
    });
    expect(isPainted(wiped)).toBe(false);
  });
});
