import { describe, expect, it } from "vitest";
import type { FiringAction } from "../api/client";
import { clock, oddPress, timing } from "./timing";

describe("the clock", () => {
  it.each([
    [252, "4:12"],
    [0, "0:00"],
    [-65, "+1:05"],
    [3725, "1:02:05"],
  ])("%d s", (seconds, text) => expect(clock(seconds)).toBe(text));

  it("counts a hold down and says when it is over", () => {
    expect(timing(60_000, 0, 360)).toMatchObject({ shown: 300, of: "of 6:00,", over: false });
    expect(timing(400_000, 0, 360)).toMatchObject({ shown: -40, over: true });
  });
  it("counts up when nothing is timed", () => {
    expect(timing(61_000, 0, undefined)).toMatchObject({ shown: 61, of: "" });
    expect(timing(61_000, undefined, undefined).shown).toBe(0);
  });
});

describe("a press far off its time", () => {
  const hold = { mark: "hold_begins", lasts_s: 600 } as unknown as FiringAction;
  it.each([
    [100, "early"],
    [400, null],
    [900, null],
    [1300, "late"],
  ] as const)("after %i s of 600 it is %s", (gone, odd) => {
    expect(oddPress(hold, 0, gone * 1000)).toBe(odd);
  });

  it("is never asked about in a bath, or in a hold of seconds", () => {
    expect(oddPress({ ...hold, mark: "hold_ends" }, 0, 0)).toBeNull();
    expect(oddPress({ ...hold, lasts_s: 30 }, 0, 0)).toBeNull();
    expect(oddPress(undefined, 0, 0)).toBeNull();
  });
});
