import type { TrialEnd, TrialGuide } from "../api/client";
import { percent, type Say } from "./quantities";

/** What is to be done next with a steel of unknown kind. */
export interface Told {
  ask: string;
  how: string;
  caution: string;
}

/** A share in words of counting: one of ten. */
export const percentOf = (share: number) =>
  share > 0 && share < 0.01 ? "under 1 %" : percent(share);

const WATER = "Steam, and coupons may crack with a ping: face shield.";

/** The next step of a trial, in words. */
export function guided(g: TrialGuide, say: Say): Told {
  const heat = g.temperature_c == null ? "" : say.temperature(g.temperature_c);
  switch (g.stage) {
    case "oil":
      return {
        ask: "Quench a coupon in oil and file it",
        how: "Cut a coupon as thick as was said. Heat it until the magnet lets go and a shade more, hold it two minutes, quench it in warm oil. When it is cold, take the skin off and draw a file over the corner.",
        caution:
          "Hot oil flashes: metal tank, lid, extinguisher, no water in it. Tongs and gloves.",
      };
    case "water":
      return {
        ask: "It stayed soft: the same in water",
        how: "A new coupon, the same heat, straight into water at room temperature. File it cold.",
        caution: WATER,
      };
    case "air":
      return {
        ask:
          g.verdict?.verdict === "not_a_blade_steel"
            ? "Before you give it up: one left to cool in air"
            : "Does it harden in air? Leave one hanging",
        how: `Heat a coupon to yellow, about ${heat}, hold it five minutes, hang it on a wire and let it go cold by itself. Take the skin off and file it: if the file skates it is full of alloy, and wants plates or air.`,
        caution: "It stays hot long after it looks cold: hang it where nobody takes hold of it.",
      };
    case "ladder":
      return {
        ask: `Rung ${g.rung ?? 1}: a coupon from ${heat}`,
        how: `Hold it five minutes at ${heat}, ${g.bath === "air" ? "let it cool in air" : `quench it in ${g.bath}`}, file it cold, then break it and compare the fracture.`,
        caution: "Breaks like glass: wrap it in a rag, eyes covered, snap it away from you.",
      };
    case "done":
      return {
        ask:
          g.verdict?.verdict === "not_a_blade_steel" ? "Not a blade steel" : "A steel for the shop",
        how: "",
        caution: "",
      };
  }
}

/** How a trial ended, or would end now, in sentences. */
export function ended(end: TrialEnd, tried: boolean, say: Say): string {
  if (end.verdict === "not_a_blade_steel") {
    return `Soft from oil and from water: less than about ${end.carbon_percent.toFixed(2)} % carbon. It is no blade steel; it will do for cladding.`;
  }
  const { austenitize_c, bath, carbon, coarsens_c } = end.estimate;
  const [low, best, top] = austenitize_c.map(Math.round) as [number, number, number];
  const [least, likely, most] = carbon as [number, number, number];
  const coarse = coarsens_c == null ? "" : `; grain grows coarse at ${say.temperature(coarsens_c)}`;
  const heat = `${say.temperature(best)} (${say.temperatures(low, top)})`;
  if (!tried) {
    return `Nothing is tried yet: a plan goes by the likeliest, ${heat} into oil, and is told as widely as what it may be. A coupon costs ten minutes and tells most.`;
  }
  const hardens =
    bath === "oil"
      ? "It hardens in oil"
      : bath === "air"
        ? "It hardens in air"
        : "It hardens in water only";
  return `${hardens}. Best from ${heat}, carbon likely ${likely.toFixed(2)} % (${least.toFixed(2)} to ${most.toFixed(2)})${coarse}.`;
}
