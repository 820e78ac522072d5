import { describe, expect, it } from "vitest";
import type { LadderView } from "../api/client";
import { blank, drafts, middle, readBy, rungsOf } from "./ladder-draft";
import { range } from "./ladder-strip";

const ladder = {
  rungs: [
    { temperature_c: 150, values_hrc: [63, 64] },
    { temperature_c: 200, skated_hrc: 58, bit_hrc: 61 },
    { temperature_c: 230 },
  ],
  expected: [
    { physics_hrc: 63, hrc: { low: 62, middle: 63, high: 64.2 } },
    { physics_hrc: 60, hrc: { low: 59, middle: 60, high: 61 } },
    { physics_hrc: 58, hrc: { low: 56.4, middle: 58, high: 59 } },
  ],
} as unknown as LadderView;

describe("the coupons of a ladder", () => {
  it("are written and read back as they are", () => {
    const written = drafts(ladder);
    expect(written.map((d) => d.readings)).toEqual(["63 64", "", ""]);
    const back = rungsOf(written);
    expect(back[0]?.values_hrc).toEqual([63, 64]);
    expect([back[1]?.skated_hrc, back[1]?.bit_hrc, back[1]?.values_hrc]).toEqual([58, 61, []]);
    expect(back[2]).toMatchObject({ temperature_c: 230, file: null, grain: null });
  });

  it("name the coupon whose readings cannot be read", () => {
    const wrong = { ...blank(200), readings: "61 x" };
    expect(() => rungsOf([blank(150), wrong])).toThrowError(
      expect.objectContaining({ fields: { "rungs[1].readings": expect.stringContaining("“x”") } }),
    );
  });

  it("are told by readings before files", () => {
    expect(ladder.rungs.map((r) => middle(r))).toEqual([63.5, 59.5, null]);
    expect(readBy(ladder)).toBe("set");
    expect(range(ladder)).toEqual([55, 66]);
  });
});
