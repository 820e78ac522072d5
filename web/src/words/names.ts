import type { Clay, Furnace, Medium, StationKind, Step } from "../api/client";

export const MEDIA: Record<Medium, string> = {
  brine: "brine",
  water: "water",
  fast_oil: "fast oil",
  vegetable_oil: "vegetable oil",
  medium_oil: "medium oil",
  slow_oil: "slow oil",
  used_engine_oil: "used engine oil",
  warm_oil: "warm oil",
  salt: "salt",
  plates: "plates",
  forced_air: "forced air",
  still_air: "still air",
};

export const SHAPES: Record<string, string> = {
  plain: "plain blade",
  reed_hook: "reed hook",
  grafting: "grafting blade",
  bill: "pruning bill",
  drawing: "drawing blade",
  oyster: "oyster blade",
  net: "net blade",
};

/** A size to start from: length, width, spine, mm. */
export const SHAPE_SIZES: Record<string, [number, number, number]> = {
  plain: [150, 26, 3.5],
  reed_hook: [190, 28, 4],
  grafting: [95, 20, 2.8],
  bill: [230, 52, 5.5],
  drawing: [240, 34, 5],
  oyster: [88, 26, 3],
  net: [120, 22, 2.5],
};

export const PURPOSES: Record<string, string> = {
  fine_edge: "fine edge, light work",
  all_round: "all-round work",
  heavy: "heavy cuts and blows",
  springy: "springy, must flex",
};

/** The hardness usually wanted for a purpose, HRC; as the core has it. */
export const PURPOSE_TARGETS: Record<string, [number, number]> = {
  fine_edge: [61, 63],
  all_round: [59, 61],
  heavy: [56, 58],
  springy: [53, 56],
};

export const GRINDS: Record<string, string> = {
  flat: "flat",
  hollow: "hollow",
  convex: "convex",
  flat_secondary: "flat, second bevel",
  none: "not ground yet",
};

export const ORDERS: Record<string, string> = {
  grind_first: "grind first",
  harden_first: "harden first",
};

export const PROTECTIONS: Record<string, string> = {
  bare: "nothing, bare",
  reducing_forge: "a reducing fire",
  coating: "a coating",
  foil: "steel foil",
};

/** A fire with its article, as in “in a kiln”. */
export const FURNACES_IN: Record<Furnace, string> = {
  kiln: "a kiln",
  forge: "an open forge",
  pipe: "a pipe in the forge",
  charcoal: "a charcoal fire",
  oven: "an oven",
};

/** The kinds of step, in the order of the work. */
export const STEPS: Record<Step["kind"], string> = {
  anneal: "Anneal",
  stress_relief: "Stress relief",
  normalize: "Normalize",
  refine: "Refine",
  coat: "Coat",
  pouch: "Pouch",
  clay: "Clay and dry",
  preheat: "Preheat",
  austenitize: "Austenitize",
  quench: "Quench",
  straighten: "Straighten",
  cool: "Cool",
  sub_zero: "Sub-zero",
  temper: "Temper",
  torch_temper: "Torch temper",
  stamp: "Stamp the mark",
  check: "Check",
};

export const CLAYS: Record<Clay["mix"], string> = {
  refractory_mix: "refractory mortar",
  furnace_cement: "furnace cement",
  charcoal_stone: "clay, charcoal and stone",
};
export const PARTS: Record<"spine" | "tang", string> = { spine: "spine", tang: "tang" };

export const LOOKS: Record<"straight" | "cracked" | "hard" | "magnet" | "colour", string> = {
  straight: "straight?",
  cracked: "cracked?",
  hard: "hard?",
  magnet: "magnet holds?",
  colour: "temper colour?",
};

export const STATION_KINDS: Record<StationKind, string> = {
  forge: "forge",
  kiln: "kiln",
  oven: "tempering oven",
  tank: "quench tank",
  plates: "quench plates",
  cold_box: "cold box",
  torch: "torch",
  tester: "hardness tester",
  files: "file set",
  magnet: "magnet",
  logger: "thermocouple logger",
  eye: "eye",
};

export const hrc = (value: number) => value.toFixed(1);

export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** How long, in the two largest units: 38 min, 2 h 5 min, 3 days. */
export function span(seconds: number): string {
  const minutes = Math.floor(seconds / 60);
  if (seconds < 60) return `${Math.max(0, Math.round(seconds))} s`;
  if (minutes < 120) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  if (hours < 48) return minutes % 60 ? `${hours} h ${minutes % 60} min` : `${hours} h`;
  return `${Math.floor(hours / 24)} days`;
}
