import type { LadderView } from "../api/client";
import type { Say } from "./quantities";

export type Along = LadderView["along"];

/** What a ladder is of. */
export const ALONG: Record<Along, string> = {
  heats: "heats to quench from",
  tempers: "tempers",
};

/** What is done with the coupons. */
export const HOW: Record<Along, string> = {
  heats:
    "Cut coupons from one bar, alike in thickness, and number them. Each goes into the fire by itself, is held and quenched alike; only the heat differs. When it is cold, take the skin off, read it, break it and grade the fracture.",
  tempers:
    "Cut coupons from one bar and quench them all from the same heat. Keep one as it is, and temper each of the others at its own temperature, cool ones first. Take the skin off and read each cold.",
};

export const CAUTION: Record<Along, string> = {
  heats:
    "Hot oil flashes: metal tank, lid, extinguisher, no water in it. A hard coupon breaks like glass: wrap it in a rag, eyes covered, snap it away from you.",
  tempers:
    "Hot oil flashes: metal tank, lid, extinguisher, no water in it. Untempered coupons are like glass: eyes covered, and do not drop them.",
};

/** Why one coupon more would tell something. */
export const WHY: Record<NonNullable<LadderView["next"]>["why"], string> = {
  coolest_is_hard: "the coolest is hard already, so where it begins is not seen",
  still_rising: "the hottest is still the hardest",
  not_coarse_yet: "the hottest is still fine, so where it grows coarse is not seen",
};

/** What a ladder says, in sentences. */
export function laddered(
  found: NonNullable<LadderView["found"]>,
  window: [number, number] | undefined,
  say: Say,
): string[] {
  if (found.along === "heats") {
    const { low_c, best_c, high_c, coarsens_c, hardest_hrc } = found;
    if (best_c == null || low_c == null || high_c == null) {
      return [
        coarsens_c == null
          ? "None of them is hard. Go hotter, or quench faster."
          : "What is hard is coarse: no heat between them is good. Look at the fire, and at how long it soaks.",
      ];
    }
    const hard = hardest_hrc == null ? "" : ` The hardest reads ${hardest_hrc.toFixed(1)} HRC.`;
    const range =
      low_c === high_c
        ? `Best from ${say.temperature(best_c)}.`
        : `Best from ${say.temperature(best_c)}; hard and fine from ${say.temperatures(low_c, high_c)}.`;
    const coarse =
      coarsens_c == null ? "" : ` The fracture grows coarse at ${say.temperature(coarsens_c)}.`;
    const table =
      window === undefined
        ? ""
        : best_c < window[0]
          ? ` That is cooler than is published, ${say.temperatures(...window)}: the fire may be hotter than it shows.`
          : best_c > window[1]
            ? ` That is hotter than is published, ${say.temperatures(...window)}: the fire may be cooler than it shows.`
            : ` Published: ${say.temperatures(...window)}.`;
    return [range + hard + coarse + table];
  }
  const off = found.offset_hrc;
  const told =
    Math.abs(off) < 0.5
      ? "They read as physics has it."
      : `They read ${Math.abs(off).toFixed(1)} HRC ${off > 0 ? "harder" : "softer"} than physics has it.`;
  return [`${told} Every blade of this steel is told by them now.`];
}
