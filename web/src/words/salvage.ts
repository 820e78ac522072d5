import type { Salvage } from "../api/client";

/** What an old piece of steel was. */
export const SALVAGE: Record<Salvage, string> = {
  file: "file or rasp",
  leaf_spring: "leaf spring",
  coil_spring: "coil spring",
  bearing_ring: "bearing ring",
  saw_plate: "saw plate",
  plane_iron: "plane iron, chisel",
  axle: "axle or shaft",
  rail: "rail",
  unknown_bar: "nobody knows",
};

/** The same after an article, for the inside of a sentence. */
export const OLD: Record<Salvage, string> = {
  file: "an old file",
  leaf_spring: "an old leaf spring",
  coil_spring: "an old coil spring",
  bearing_ring: "the ring of a bearing",
  saw_plate: "an old saw plate",
  plane_iron: "an old plane iron",
  axle: "an old axle",
  rail: "a piece of rail",
  unknown_bar: "a bar nobody knows",
};

/** What such a thing usually turns out to be. */
export const USUALLY: Record<Salvage, string> = {
  file: "Plain and full of carbon. Cheap ones are soft under a hard skin.",
  leaf_spring: "Middling carbon with chromium or silicon; very old ones plain.",
  coil_spring: "Like leaf springs, more of them with silicon.",
  bearing_ring: "Nearly always the same chromium steel; some only hard at the skin.",
  saw_plate: "Thin, tough, with nickel, or chromium and vanadium.",
  plane_iron: "Plain and hard, or alloyed; a few harden in air. Some are faced: try the edge.",
  axle: "Seldom enough carbon for an edge.",
  rail: "Enough carbon for an edge that must bear knocks.",
  unknown_bar: "One in three is too soft for any edge.",
};
