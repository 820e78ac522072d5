import type { Fit, MethodView, SchoolAgainst, SchoolId, Unreadable } from "../api/client";
import { MEDIA } from "./names";
import { percent, type Say, type Wording, word } from "./quantities";

interface School {
  name: string;
  /** Why smiths do it. */
  reasons: string;
  costs: string;
}

/** The ways of working that smiths hold to. */
export const SCHOOLS: Record<SchoolId, School> = {
  falling_heats: {
    name: "Three falling heats",
    reasons:
      "Each normalizing heat is cooler than the last: the first evens out forging, the last leaves the finest grain.",
    costs: "Three heats and coolings before the hardening heat; skin is lost in each.",
  },
  even_heats: {
    name: "Three heats at hardening temperature",
    reasons:
      "Nothing to remember: every heat is the one it will be quenched from. Enough for a bar that was forged little.",
    costs: "A badly overheated forging keeps some coarse grain.",
  },
  below_critical: {
    name: "One heat above, two just below",
    reasons:
      "One full normalizing heat, then two that stop short of critical: they soften and relieve without growing anything.",
    costs: "The last two do not refine grain; carbides ball up and want a longer soak.",
  },
  as_bought: {
    name: "Straight to the hardening heat",
    reasons: "A bar ground to shape and never forged is fine and even as it came from the mill.",
    costs: "Whatever the mill or the drill left in it stays; never after forging.",
  },
  water_then_oil: {
    name: "Water, then oil",
    reasons:
      "Seconds in water get a shallow steel past the nose, oil takes it gently through the martensite.",
    costs:
      "A second more or less moves the line; two baths and a quick hand; more cracks than oil alone.",
  },
  straight_water: {
    name: "Water alone",
    reasons:
      "The fastest bath most shops have: hardest edge, and the most upward curve under clay.",
    costs: "The most cracks. No sharp corners, no scratches, an even plunge.",
  },
  fast_oil: {
    name: "Fast oil",
    reasons: "Mild on the blade and even; a thin section of a shallow steel still hardens.",
    costs: "Needs real quenching oil. A thick spine stays soft, and the line sits low.",
  },
  vegetable_oil: {
    name: "Vegetable oil",
    reasons: "Cheap, easy to find, warms and cleans easily.",
    costs: "Slower than fast oil, goes rancid, and smokes; shallow steels may miss their hardness.",
  },
  clay_in_water: {
    name: "Clay and water",
    reasons:
      "A thick coat on the back slows it: a hard edge, a soft back, a line to show, and a curve upwards.",
    costs: "A night of drying, the cracks of water, and clay that may let go.",
  },
  plates: {
    name: "Foil, plates and cold",
    reasons:
      "Bright and straight from between plates; the cold turns what austenite is left at once.",
    costs: "Foil for every blade, plates to hand, dry ice or nitrogen the same hour.",
  },
  cold_too: {
    name: "Sub-zero on top",
    reasons:
      "Down to dry ice straight from the quench turns some of the austenite left: harder, and it stays as it is.",
    costs: "Dry ice for half a point of hardness; pointless in lean steels.",
  },
  from_warm: {
    name: "Into the oven while still warm",
    reasons: "Never quite cold before the first temper: the fewest cracks of all.",
    costs: "What austenite is left at hand warmth is not turned; a little softer.",
  },
  once: {
    name: "One temper of an hour",
    reasons: "Most of what a temper does is done in the first hour.",
    costs: "Austenite that turns while cooling from it stays untempered.",
  },
  soft_back: {
    name: "Torch the back after",
    reasons: "A springy back over a hard edge: it bends before it breaks.",
    costs: "A steady hand, the edge in water, and one slip softens the edge for good.",
  },
};

const AGAINST: Wording<SchoolAgainst> = {
  hardens_in_air: (f) => `${f.steel} hardens in air: normalizing leaves it hard and strained.`,
  cracks_in_water: (f) => `${f.steel} is no water steel: in water it is likely to crack.`,
  plates_too_slow: (f) =>
    `Plates are too slow for ${f.steel}: only ${percent(f.hard_share)} hardens where it is read.`,
  stays_soft: (f) => `This section of ${f.steel} stays soft in ${MEDIA[f.medium]}.`,
  no_austenite: (f) => `${f.steel} keeps next to no austenite.`,
};

/** Why a way of working is advised against here, in a sentence. */
export const against = (fact: SchoolAgainst, say: Say) => word(AGAINST, fact, say);

/** What a method is called, why, and what it costs. */
export function method(m: MethodView, say: Say): School {
  switch (m.source) {
    case "school":
      return SCHOOLS[m.school];
    case "house":
      return { name: m.name, reasons: m.note, costs: "" };
    case "blade":
      return {
        name: `As ${m.mark} ${m.name}`,
        reasons: `What was done to ${m.mark} (${say.about(m.spine_mm)} spine): it came out at ${m.measured_hrc.toFixed(1)} HRC, as wanted, and nothing speaks against it.`,
        costs: "",
      };
  }
}

/** Why the steps of a method cannot be read, in a sentence. */
export const unreadable = (why: Unreadable) =>
  why.code === "format"
    ? `It was saved in form ${why.format}; this version reads forms 1 to ${why.newest}. It is kept as it is.`
    : `Step ${why.number} cannot be read (${why.detail}). It is kept as it is.`;

/** How often a plan comes out right and what it is lost to, in a sentence. */
export function fits(fit: Fit): string {
  const lost = {
    hardness: ["hardness outside what you want", fit.hard],
    crack: ["a crack", fit.whole],
    bend: ["a bend", fit.straight],
    line: ["a line that is not where you want it", fit.line ?? 1],
  } as const;
  if (!fit.lost_to) return "Comes out right nearly every time.";
  const [name, chance] = lost[fit.lost_to];
  return `Comes out right ${Math.round(10 * fit.right)} times in 10; most often lost to ${name} (${percent(1 - chance)}).`;
}
