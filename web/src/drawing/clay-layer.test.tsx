import { describe, expect, it } from "vitest";
import type { Clay } from "../api/client";
import { blade, show } from "../testing/shop.test";
import { type Frame, heights } from "./blade-drawing";
import { CLAY_KEY, ClayLayer, clayColour, faceOf } from "./clay-layer";

const frame: Frame = {
  x: (mm) => 2 * mm,
  y: (mm) => 100 - 2 * mm,
  scale: 2,
  heights: (at) => heights(blade.outline, at),
};

const clay: Clay = {
  left: {
    grid: {
      x0_mm: 0,
      y0_mm: 0,
      step_mm: 2,
      thickness_mm: [
        [0, 1, 1],
        [0, 0, 3],
      ],
    },
    band: { from_edge_mm: 12, thickness_mm: 2 },
    strokes: [
      { points: [[10, 8]], width_mm: 4, thickness_mm: 0 },
      {
        points: [
          [20, 8],
          [40, 9],
        ],
        width_mm: 6,
        thickness_mm: 5,
      },
    ],
  },
  mix: "refractory_mix",
  right: null,
};

describe("clay on the drawing", () => {
  it("is drawn as it was laid on: cells, band, strokes, each to scale", () => {
    const { container } = show(
      <svg>
        <title>clay</title>
        <ClayLayer face={clay.left} frame={frame} outline={blade.outline} id="left" />
      </svg>,
    );
    const kinds = [...container.querySelectorAll(".clay-layer > *")].map((e) => e.tagName);
    expect(kinds).toEqual(["rect", "rect", "path", "path", "path"]);
    // Two cells of one thickness are one rectangle.
    expect(container.querySelector("rect")?.getAttribute("height")).toBe("8.5");
    const [band, dab, stroke] = container.querySelectorAll("path");
    expect(band?.getAttribute("fill")).toBe(clayColour(2));
    expect(band?.getAttribute("d")).toContain("0.0 76.0");
    expect(dab?.getAttribute("d")).toBe("M20.0 84.0l0.01 0");
    expect(dab?.getAttribute("stroke")).toBe(clayColour(0));
    expect(stroke?.getAttribute("stroke-width")).toBe("12");
    expect(stroke?.getAttribute("d")).toBe("M40.0 84.0L80.0 82.0");
  });

  it("is on the right face as on the left until it was painted apart", () => {
    expect(faceOf(clay, true)).toBe(clay.left);
    const apart = { ...clay, right: { strokes: [] } };
    expect(faceOf(apart, true)).toBe(apart.right);
    expect(faceOf(apart, false)).toBe(clay.left);
  });

  it("tells thicknesses apart, the thicker the darker", () => {
    const light = (hex: string) => Number.parseInt(hex.slice(1, 3), 16);
    const shades = CLAY_KEY.map((t) => light(clayColour(t)));
    expect([...shades].sort((a, b) => b - a)).toEqual(shades);
    expect(new Set(shades).size).toBe(CLAY_KEY.length);
  });
});
