import type { Step } from "../api/client";

const HOT =
  "Burns. Air the room: fires give off carbon monoxide. The dust of a fibre lining harms the lungs: mask, and wet it before you touch it.";

/** The caution of a step, where work can hurt; the firing view shows its own at each action. */
export const CAUTIONS: Partial<Record<Step["kind"], string>> = {
  anneal: HOT,
  stress_relief: HOT,
  normalize: HOT,
  refine: HOT,
  coat: "Coating smokes as it melts on: mask and moving air.",
  pouch: "Foil edges cut: gloves.",
  clay: "Bone dry before the fire. No clay dust in the breath.",
  preheat: HOT,
  austenitize: `Gloves, face shield, dry floor. ${HOT}`,
  quench:
    "Hot oil flashes and smokes: metal tank, lid, extinguisher, no water in it, moving air. Molten salt spits at anything damp. Glass-hard after: eye protection.",
  straighten: "Only while it bends easily; a cold hard blade snaps.",
  cool: "Hard and brittle as glass until tempered.",
  sub_zero: "Cold burns. No closed container, no closed room, no flame near alcohol.",
  temper: "An oven used for oily blades is not for food.",
  stamp: "Burns, and a punch that jumps: gloves and eye protection.",
  torch_temper: "Edge in water. Flame and hot steam: gloves, eyes, air.",
};
