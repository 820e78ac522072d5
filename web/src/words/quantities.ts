import { INCH, show, toF, type Units } from "../quantity/parse";

/** Writes quantities of the API in the units of who reads, for use inside a sentence. */
export interface Say {
  /** A temperature, °C. */
  temperature: (c: number) => string;
  /** From one temperature to another, °C, with the unit once. */
  temperatures: (low: number, high: number) => string;
  /** How far apart two temperatures are, K, without a sign. */
  difference: (k: number) => string;
  /** The degree of the scale in use. */
  degree: string;
  /** What is so much for each K, for each degree of the scale in use. */
  perDegree: (perK: number) => number;
  /** A computed length, mm: a tenth of a millimetre or a hundredth of an inch. */
  about: (mm: number) => string;
  /** A small length, mm: a hundredth of a millimetre or a thousandth of an inch. */
  fine: (mm: number) => string;
  /** A length as somebody would set it, mm. */
  length: (mm: number) => string;
  /** From one length to another, mm, with the unit once. */
  lengths: (low: number, high: number) => string;
  /** A time, s. */
  time: (s: number) => string;
}

/** A fact of the API with what it is, and the quantities that belong to it. */
interface Fact {
  code: string;
}

/** A sentence for each code: one that is missing is a type error. */
export type Wording<F extends Fact> = {
  [C in F["code"]]: (fact: Extract<F, { code: C }>, say: Say) => string;
};

/** The sentence for a fact. */
export function word<F extends Fact>(wording: Wording<F>, fact: F, say: Say): string {
  const of = wording[fact.code as F["code"]] as (fact: F, say: Say) => string;
  return of(fact, say);
}

/** A time, s, in its largest round unit: 45 s, 5 min, 1 h, 1 h 30 min. */
function time(s: number): string {
  if (s >= 3600 && s % 3600 === 0) return `${s / 3600} h`;
  if (s >= 60 && s < 3600 && s % 60 === 0) return `${s / 60} min`;
  return show("time", s, { temperature: "c", length: "mm" });
}

/** Quantities as written in these units. */
export function say(units: Units): Say {
  const inch = units.length === "in";
  const degree = units.temperature === "f" ? "°F" : "°C";
  const bare = (c: number) => String(Math.round(units.temperature === "f" ? toF(c) : c));
  return {
    temperature: (c) => show("temperature", c, units),
    temperatures: (low, high) => `${bare(low)} to ${show("temperature", high, units)}`,
    difference: (k) => `${Math.abs(units.temperature === "f" ? k * 1.8 : k).toFixed(0)} ${degree}`,
    degree,
    perDegree: (perK) => (units.temperature === "f" ? perK / 1.8 : perK),
    about: (mm) => (inch ? `${(mm / INCH).toFixed(2)} in` : `${mm.toFixed(1)} mm`),
    fine: (mm) => (inch ? `${(mm / INCH).toFixed(3)} in` : `${mm.toFixed(2)} mm`),
    length: (mm) => show("length", mm, units),
    lengths: (low, high) =>
      `${show("length", low, units).replace(/ \w+$/, "")} to ${show("length", high, units)}`,
    time,
  };
}

/** A chance or share from 0 to 1, in percent. */
export const percent = (share: number) => `${(100 * share).toFixed(0)} %`;

/** A count with its noun, in the singular or the plural. */
export const plural = (n: number, one: string, many: string) => `${n} ${n === 1 ? one : many}`;
