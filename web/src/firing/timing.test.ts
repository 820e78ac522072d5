import { describe, expect, it } from "vitest";
import { clock, soundAt, timing } from "./timing";

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
  it("rings when the hold is over", () => {
    expect(soundAt(1000, 2.5)).toBe(3500);
    expect(soundAt(1000, undefined)).toBeNull();
  });
});
