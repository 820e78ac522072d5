import { describe, expect, it } from "vitest";
import { laddered } from "./ladders";
import { say as saying } from "./quantities";

const say = saying({ temperature: "c", length: "mm" });
const heats = {
  along: "heats",
  low_c: 800,
  best_c: 815,
  high_c: 830,
  coarsens_c: 845,
  hardest_hrc: 65.2,
} as const;

describe("what a ladder says", () => {
  it("is the best heat, against what is published", () => {
    expect(laddered(heats, [800, 830], say)).toEqual([
      "Best from 815 °C; hard and fine from 800 to 830 °C. The hardest reads 65.2 HRC. The fracture grows coarse at 845 °C. Published: 800 to 830 °C.",
    ]);
    expect(laddered({ ...heats, best_c: 780 }, [800, 830], say)[0]).toContain(
      "the fire may be hotter than it shows",
    );
    expect(laddered({ ...heats, best_c: 860 }, [800, 830], say)[0]).toContain(
      "the fire may be cooler than it shows",
    );
  });

  it("says when none of them is good", () => {
    const none = { ...heats, low_c: null, best_c: null, high_c: null };
    expect(laddered({ ...none, coarsens_c: null }, undefined, say)[0]).toContain("None of them");
    expect(laddered(none, undefined, say)[0]).toContain("coarse: no heat");
  });

  it("is how far the tempers are from physics", () => {
    const tempers = (offset_hrc: number) =>
      laddered({ along: "tempers", offset_hrc, for_hrc: [] }, undefined, say)[0];
    expect(tempers(-1.24)).toContain("1.2 HRC softer than physics");
    expect(tempers(0.2)).toContain("as physics has it");
  });
});
