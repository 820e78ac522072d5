import type { Units } from "./parse";

/** The units on the screen now, for what is told outside of any component: a refusal of the server. */
let units: Units = { temperature: "c", length: "mm" };

export const shownUnits = () => units;

export function showIn(chosen: Units) {
  units = chosen;
}
