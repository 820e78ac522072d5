import { describe, expect, it } from "vitest";
import { maps } from "../testing/shop.test";
import { bent, cellAt, hamonColour, hardnessColour, pieces, quenchColour, sectionAt } from "./maps";
import { depthInWords } from "./section-across";

describe("the maps of a quench", () => {
  it("are cut into pieces of one colour, that reach a little beyond the outline", () => {
    const all = pieces(maps, (c) => ((maps.hardened_percent[c] ?? 0) >= 50 ? "hard" : "soft"));
    expect(all.map((p) => p.colour)).toEqual(["hard", "soft", "hard", "soft"]);
    expect(all[0]).toMatchObject({ x: 0, low: -10, high: 20 });
    expect(all[1]).toMatchObject({ x: 0, low: 20, high: 40 });
  });
  it("know their cells by place", () => {
    expect(cellAt(maps, 5, 5)).toBe(0);
    expect(cellAt(maps, 15, 25)).toBe(5);
    expect(cellAt(maps, 15, 35)).toBeUndefined();
    expect(cellAt(maps, -1, 5)).toBeUndefined();
  });
  it("bend from curvature, measured from the line between the ends", () => {
    const even = Array.from({ length: 201 }, (_, i) => [i, 1, 0]);
    const curve = bent(even);
    expect(curve[0]?.[1]).toBe(0);
    expect(curve.at(-1)?.[1]).toBeCloseTo(0, 9);
    // A circle of 1 m over 200 mm sags 5 mm.
    expect(curve[100]?.[1]).toBeCloseTo(-5, 1);
    expect(bent([])).toEqual([]);
  });
  it("use heat colours for heat only", () => {
    expect(quenchColour(800, 0)).not.toBe(quenchColour(600, 0));
    expect(quenchColour(300, 0)).toBe(quenchColour(400, 0));
    expect(quenchColour(60, 90)).not.toBe(quenchColour(60, 0));
    expect(hardnessColour(66)).not.toBe(hardnessColour(40));
    expect(hamonColour(100)).not.toBe(hamonColour(0));
  });

  it("have a section at every place, and beyond their ends the last one", () => {
    const { x, cells } = sectionAt(maps, 14);
    expect(x).toBe(15);
    expect(cells.map((c) => [c.low, c.half, c.deep])).toEqual([
      [0, 0.4, 0.4],
      [10, 1, 1],
      [20, 2, 0],
    ]);
    expect(sectionAt(maps, -40).cells[2]?.deep).toBe(0.6);
    expect(sectionAt(maps, 4000).x).toBe(15);
  });

  it("say how deep a section is hardened", () => {
    const mm = (n: number) => `${n.toFixed(1)} mm`;
    const say = (...deep: number[]) =>
      depthInWords(
        deep.map((d, i) => ({ low: 10 * i, high: 10 * i + 10, half: 2, deep: d })),
        mm,
      );
    expect(say(2, 2, 2)).toBe("hard to the middle from edge to spine");
    expect(say(0, 0, 0)).toBe("soft from edge to spine");
    expect(say(2, 1.4, 0.8)).toBe(
      "hard to the middle 10.0 mm up, at the spine 0.8 mm from each face",
    );
    expect(say(2, 0.5, 0)).toBe("hard to the middle 10.0 mm up, soft at the spine");
    expect(say(1.2, 1, 0.9)).toBe(
      "at the edge 1.2 mm from each face, at the spine 0.9 mm from each face",
    );
  });
});
