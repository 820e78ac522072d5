import type { Conflict, EdgeLayer, LayerOutcome, Service, Suits } from "../api/client";
import { MEDIA } from "./names";
import { type Say, type Wording, word } from "./quantities";

const CONFLICTS: Wording<Conflict> = {
  windows: (f, say) =>
    `${f.wants} wants at least ${say.temperature(f.low_c)}, ${f.bears} bears at most ${say.temperature(f.high_c)}: ${
      f.coarse
        ? `at ${say.temperature(f.low_c)} the grain of ${f.bears} grows coarse.`
        : `between them ${f.wants} dissolves too little and ${f.bears} keeps too much austenite.`
    }`,
  cracks: (f) => `${f.steel} cracks in ${MEDIA[f.medium]}, which ${f.edge} would take.`,
  stays_soft: (f) => `${f.steel} stays soft in what hardens ${f.edge}.`,
  no_bath: (f) => `No bath suits all of them with ${f.edge} at the edge.`,
};

/** What keeps the steels of one bar apart, in a sentence. */
export const conflict = (fact: Conflict, say: Say) => word(CONFLICTS, fact, say);

/** Where the edge layer of a bar of several steels ends on the blade. */
export function edgeLayer(of: EdgeLayer, say: Say): string {
  const thick = `Edge layer ${say.about(of.thickness_mm)} thick here`;
  if (of.ends_mm == null) return `${thick}: the others never show.`;
  if (of.ends_mm === 0) return `${thick}: the edge as ground is of the others; grind it thinner.`;
  return `${thick}: it ends ${say.about(of.ends_mm)} above the edge.`;
}

/** What comes of a layer beside the edge, in a sentence. */
export function layer(l: LayerOutcome): string {
  const hrc = `${l.tempered_hrc.toFixed(0)} HRC`;
  if (l.role === "core" && !l.hard) {
    return `${l.steel_name} stays soft here, though it should harden with the edge.`;
  }
  if (l.role === "cladding" && l.hard) {
    return `${l.steel_name} hardens too, to about ${hrc}: the sides will not be soft.`;
  }
  return l.hard
    ? `${l.steel_name} ends at about ${hrc}.`
    : `${l.steel_name} stays soft, as cladding should.`;
}

/** How a steel serves a purpose, in a sentence. */
export function serves(s: Suits, say: Say): string {
  const temper = s.temper_c === null || s.temper_c === undefined ? "" : say.temperature(s.temper_c);
  const gives = `${temper} gives ${(0.5 * (s.low_hrc + s.high_hrc)).toFixed(0)} HRC`;
  const services: Wording<Service> = {
    well: () => `${gives}.`,
    too_lean: () => "Too little carbon to hold an edge.",
    too_soft: (f) =>
      `Reaches ${f.top_hrc.toFixed(0)} HRC at most after a ${say.temperature(f.coolest_c)} temper; ${s.low_hrc} to ${s.high_hrc} is wanted.`,
    stays_hard: (f) => `Stays above ${s.high_hrc} HRC up to ${say.temperature(f.hottest_c)}.`,
    rusts: () => `Needs ${temper}, where it loses its stainlessness.`,
    brittle: (f) =>
      `Needs ${temper}, inside the brittle range of ${say.temperatures(f.low_c, f.high_c)}.`,
    carbides_chip: () => `${gives}, but its coarse carbides chip.`,
    flexes_less: () => `${gives}; leaner steels flex more often before they break.`,
  };
  return word(services, s.how, say);
}
