import type { TemperColour } from "../api/client";

/** Colours of the trade: they mean temper colour and nothing else. */
export const TEMPER_CHIPS: Record<TemperColour, string> = {
  pale_straw: "#e6d9a8",
  straw: "#d9c06a",
  dark_straw: "#c39a3f",
  bronze: "#9c6b3a",
  purple: "#75507f",
  dark_blue: "#3a4d8f",
  light_blue: "#7fa3cf",
  grey: "#9a9c9a",
};
