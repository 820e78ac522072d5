/** The colour steel glows at a temperature, °C; grey where it does not glow. */
const GLOW: [number, string][] = [
  [480, "#7b7f7c"],
  [560, "#4a1d16"],
  [650, "#7d1f14"],
  [740, "#b02a12"],
  [800, "#cf3d10"],
  [870, "#e4610f"],
  [950, "#f0901b"],
  [1050, "#f6b93b"],
];

export function glow(celsius: number): string {
  return GLOW.find(([t]) => celsius <= t)?.[1] ?? "#f9d66b";
}

/** Temperatures where the colour changes, for cutting a line into pieces of one colour. */
export const GLOW_EDGES = GLOW.map(([t]) => t);
