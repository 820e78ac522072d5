import type { CheckCost, Checked } from "../api/client";
import { type Say, type Wording, word } from "./quantities";

/** What is asked before the fire. */
export const CHECK_QUESTIONS: Record<Checked["check"], string> = {
  holes_drilled: "Every hole drilled, its rim broken",
  mark_stamped: "Mark stamped",
  clear_of_edge: "Holes and stamps well clear of the edge",
  corners_chamfered: "Sharp inside corners and rims chamfered",
  scratches_out: "Coarse scratches sanded out",
  centre_scribed: "Centre line scribed",
  bevels_match: "Bevels and plunge lines match left and right",
  edge_left_thick: "Edge left thick enough",
  degreased: "Degreased",
  lies_edge_up: "Edge up in the fire, or hung",
  goes_in_upright: "Into the bath upright, moved along its edge only",
};

/** A chance in percent, with a digit more where it is small. */
const chance = (share: number) =>
  share < 0.01 ? `${(100 * share).toFixed(1)} %` : `${(100 * share).toFixed(0)} %`;

const MORE: Partial<Record<Checked["check"], string>> = {
  holes_drilled: ", and hardened steel eats drills",
  clear_of_edge: ": keep them twice the thickness away from it",
  scratches_out: ": sand along the blade, not across",
};

/** What a check that fails costs, in a sentence. */
export function cost(checked: Checked, say: Say): string {
  const costs: Wording<CheckCost> = {
    cracks: (f) =>
      `Left undone, cracks go from ${chance(f.done)} to ${chance(f.undone)} of such blades${MORE[checked.check] ?? ""}.`,
    no_stamp: () => "Hardened steel cannot be stamped; after that only etching marks it.",
    edge_wanders: () => "Without a line the edge wanders off the middle when it is ground.",
    spots: () => "Grease smokes and burns on: scale spots, and coating and clay let go there.",
    bevels_differ: (f) =>
      `They differ by up to ${say.about(f.off_mm)}: that bends it about ${say.fine(f.side_mm)} to one side.`,
    bevels_bend: (f) =>
      `For each tenth that their heights differ, it bends ${say.fine(f.per_tenth_mm)} sideways.`,
    leans: (f) =>
      `Upright, leaning bends such blades by about ${say.fine(f.upright_mm)}; slanted or swept sideways by ${say.fine(f.slanted_mm)}.`,
    sags_in_fire: (f) => `Lying on its side it sags by about ${say.fine(f.lying_mm)} in this fire.`,
    edge: (f) => {
      const skin = `${say.fine(f.skin_mm)} of skin lost on each face`;
      if (f.sound_mm <= 0) {
        return `${say.fine(f.edge_mm)} of edge, and ${skin}: nothing sound is left. Leave it thicker, coat it, or grind after hardening.`;
      }
      return `${say.fine(f.edge_mm)} of edge, ${skin}: ${say.fine(f.sound_mm)} stays sound${f.thin ? "; it may ripple or burn" : ""}.`;
    },
  };
  return word(costs, checked.cost, say);
}
