import type { Step } from "../api/client";

/** The caution of a step, where work can hurt; the firing view shows its own at each action. */
export const CAUTIONS: Partial<Record<Step["kind"], string>> = {
  anneal: "Burns. Air the room: fires give off carbon monoxide.",
  stress_relief: "Burns. Air the room: fires give off carbon monoxide.",
  normalize: "Burns. Air the room: fires give off carbon monoxide.",
  refine: "Burns. Air the room: fires give off carbon monoxide.",
  coat: "Coating smokes as it melts on: mask and moving air.",
  pouch: "Foil edges cut: gloves.",
  clay: "Bone dry before the fire. No clay dust in the breath.",
  preheat: "Burns. Air the room: fires give off carbon monoxide.",
  austenitize: "Burns: gloves, face shield, dry floor. Air the room.",
  quench:
    "Hot oil flashes: metal tank, lid, extinguisher, no water in it. Molten salt spits at anything damp. Glass-hard after: eye protection.",
  straighten: "Only while it bends easily; a cold hard blade snaps.",
  cool: "Hard and brittle as glass until tempered.",
  sub_zero: "Cold burns. No closed container, no closed room, no flame near alcohol.",
  temper: "An oven used for oily blades is not for food.",
  stamp: "Burns, and a punch that jumps: gloves and eye protection.",
  torch_temper: "Edge in water. Flame and hot steam: gloves, eyes, air.",
};
