import type { components } from "../api/schema";

type Driver = components["schemas"]["WarpDriver"];
type Remedy = components["schemas"]["WarpRemedy"];

/** What bends a blade sideways. */
export const DRIVERS: Record<Driver, string> = {
  bevels: "bevels that differ",
  skin: "carbon lost deeper on one face",
  lean: "leaning in the bath",
  film: "steam or vapour clinging to one face",
  cooling: "one face cooled more",
  support: "lying on its side in the fire",
  rest: "old stresses and uneven heat",
};

/** What would keep it straight. */
export const REMEDIES: Record<Remedy, string> = {
  measure_bevels: "Bevels measured and evened out",
  coat: "Coated or in foil",
  hold_upright: "In upright and moved along its edge only",
  lay_edge_up: "Edge up in the fire, or hung",
  normalize: "Normalized first",
};
