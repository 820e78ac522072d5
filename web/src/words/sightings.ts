import type { Glow, Light, Sighting, TemperColour, TemperSighting } from "../api/client";

/** Colours of glowing steel, the coolest first. */
export const GLOWS: Record<Glow, string> = {
  black_red: "black red",
  blood_red: "blood red",
  dark_cherry: "dark cherry",
  medium_cherry: "medium cherry",
  cherry: "full cherry",
  bright_cherry: "bright cherry",
  orange: "orange",
  light_orange: "light orange",
  yellow: "yellow",
  light_yellow: "light yellow",
};

/** Colours that a temper leaves on clean steel, the coolest first. */
export const TEMPER_COLOURS: Record<TemperColour, string> = {
  pale_straw: "pale straw",
  straw: "straw",
  dark_straw: "dark straw",
  bronze: "bronze",
  purple: "purple",
  dark_blue: "dark blue",
  light_blue: "light blue",
  grey: "grey",
};

/** The light that they are seen in. */
export const LIGHTS: Record<Light, string> = {
  dark: "in the dark",
  dim: "in a dim shop",
  daylight: "in daylight",
};

/** What else a heat is judged by. */
export const SIGNS: Record<Exclude<Sighting["sign"], "colour">, string> = {
  magnet_lets_go: "the magnet lets go",
  past_magnet: "a shade past the magnet",
  shadow_passed: "the shadow has passed",
};

/** How a heat or a temper is judged, for the inside of a sentence. */
export const sighting = (by: Sighting | TemperSighting) =>
  !("sign" in by)
    ? `${TEMPER_COLOURS[by.colour]} ${LIGHTS[by.light]}`
    : by.sign === "colour"
      ? `${GLOWS[by.colour]} ${LIGHTS[by.light]}`
      : SIGNS[by.sign];
