import type { Doing, FiringAction, HeatInRow } from "../api/client";
import { MEDIA, PARTS, STEPS } from "./names";
import { type Say, type Wording, word } from "./quantities";

type Action = FiringAction["kind"];

const ACTIONS: Wording<Action> = {
  into_fire: () => "In the fire",
  at_heat: () => "At heat",
  even: () => "Even",
  start_soak: () => "Back at heat: start soak",
  out_to_cool: () => "Out to cool",
  shut_down: () => "Shut down to cool slowly",
  bedded: (f) => (f.bed === "ash" ? "Into the ash" : "Into the vermiculite"),
  stamped: () => "Mark is in",
  coated: () => "Coated",
  pouch_closed: () => "Pouch closed",
  clay_on: () => "Clay is on",
  clay_dry: () => "Clay is dry",
  straightened: () => "Straight",
  cooled: (f, say) => `Down to ${say.temperature(f.temperature_c)}`,
  torched: (f) => `Torch off the ${PARTS[f.part]}`,
  looked: () => "Looked",
  into_bath: (f) => {
    switch (f.medium) {
      case "brine":
        return "In the brine";
      case "water":
        return "In the water";
      case "plates":
        return "Between the plates";
      case "forced_air":
      case "still_air":
        return "Out into the air";
      default:
        return "In the oil";
    }
  },
  out_warm: () => "Out of the bath, warm: straighten",
  out_cold: () => "Out of the bath, cold",
  into_cold: () => "In the cold",
  out_of_cold: () => "Out of the cold",
  into_oven: () => "In the oven",
  oven_at_heat: () => "Oven at heat",
};

/** What the big button says. */
export const action = (of: Action, say: Say) => word(ACTIONS, of, say);

/** A heat by its name and its number, for example `Normalize 2 of 3`. */
const heat = (h: HeatInRow) =>
  h.count > 1 ? `${STEPS[h.kind]} ${h.number} of ${h.count}` : STEPS[h.kind];

/** What a check point looks at. */
const QUESTIONS = {
  straight: "Straight along edge and spine?",
  cracked: "Any crack: a ping heard, a line in the grinding marks?",
  hard: "Hard under the file, once cold and the skin is off?",
  magnet: "Does the magnet still hold?",
  colour: "Temper colour as expected?",
};

const DOINGS: Wording<Doing> = {
  heating: (f) => `${heat(f.heat)}: heating`,
  evening_out: (f) => `${heat(f.heat)}: even out`,
  soaking: (f) => `${heat(f.heat)}: soak`,
  holding: (f) => (f.heat.kind === "temper" ? heat(f.heat) : `${heat(f.heat)}: hold`),
  cooling: (f) => {
    if (f.heat.kind === "temper") return `${heat(f.heat)}: cooling`;
    return `${heat(f.heat)}: cooling ${f.heat.kind === "anneal" ? "slowly" : "in air"}`;
  },
  coated: () => "Coated: dry, ready for the fire",
  in_pouch: () => "In the pouch: ready for the fire",
  clay_drying: () => "Clay: drying",
  clay_dry: () => "Clay: dry",
  straightened: () => "Straightened: look along edge and spine",
  cooled: () => "Cooled",
  torched: (f) => `The ${PARTS[f.part]} is softened`,
  stamped: () => "Stamped",
  looking: (f) => QUESTIONS[f.look],
  quenching: (f) => `Quench: ${MEDIA[f.medium]}`,
  straightening_warm: () => "Straighten while it bends easily",
  looking_over: () => "Check: straight? cracked? hard once cold?",
  in_cold: () => "Sub-zero",
  back_from_cold: () => "Sub-zero: back to room temperature",
};

/** What goes on, as a heading: no quantity is named in it. */
export function doing(of: Doing): string {
  const words = DOINGS[of.code] as (fact: Doing) => string;
  return words(of);
}

/** The caution of a moment at the fire. */
export const ACTION_CAUTIONS: Record<FiringAction["caution"], string> = {
  hot: "Burns: gloves, face shield, dry floor. Air the room: fires give off carbon monoxide. Leave a fibre lining alone: its dust harms the lungs.",
  oil: "Hot oil flashes: metal tank, lid and extinguisher in reach, no water in it. Face shield; stand clear of its smoke.",
  salt: "Molten salt spits at anything damp and burns with oil: blade dry and clean, sleeves, gloves, full face shield, moving air. No water near it.",
  water: "Steam and a hard crack: face shield, edge straight in, keep hands clear.",
  brittle: "Hard and brittle as glass until tempered: eye protection, do not drop it.",
  cold: "Cold burns: gloves. Never a closed container or closed room: the gas displaces air. Keep flame from alcohol.",
  oven: "An oven used for oily blades is not for food. Wipe the oil off first: it smokes.",
  coating:
    "Coating smokes as it melts on: mask and moving air. The alcohol it is wiped with burns.",
  foil: "Foil edges cut: gloves. A scrap of paper inside burns the air up; fold twice all round.",
  clay: "Clay must be bone dry: trapped steam throws it off. No dust in the breath when it is sanded.",
  straighten:
    "Only while it still bends easily: stop when it springs. Gloves, eyes; a cold hard blade snaps.",
  torch: "Edge in water all the while. Flame, hot steel and carbon monoxide: gloves and air.",
  air: "It looks cold long before it is: gloves. Hang it where nobody brushes past.",
};
