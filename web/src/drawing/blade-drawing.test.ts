import { describe, expect, it } from "vitest";
import { heights, pathOf } from "./blade-drawing";

const square = [
  [0, 0],
  [0, 20],
  [100, 20],
  [100, 0],
];

describe("an outline", () => {
  it("has edge and spine at every station of the blade and none beyond", () => {
    expect(heights(square, 50)).toEqual([0, 20]);
    expect(heights(square, 120)).toBeNull();
  });
  it("is drawn as a closed path", () => {
    expect(
      pathOf(
        square,
        (x) => x,
        (y) => y,
      ),
    ).toBe("M0.0 0.0L0.0 20.0L100.0 20.0L100.0 0.0Z");
  });
});
