import type { Departure, Deviation, Step } from "../api/client";
import type { Choice } from "../firing/choices";
import { MEDIA, STEPS, span } from "./names";
import { type Say, type Wording, word } from "./quantities";

const name = (steps: Step[], number: number) => {
  const step = steps[number];
  return step ? STEPS[step.kind] : `Step ${number + 1}`;
};

/** How a firing left its plan, in a few words. */
export function deviation(how: Deviation, steps: Step[], say: Say): string {
  switch (how.deviation) {
    case "left_out":
      return how.round
        ? `Left out: ${name(steps, how.step).toLowerCase()} from ${how.round + 1} on`
        : `Left out: ${name(steps, how.step).toLowerCase()}`;
    case "again":
      return how.from === how.to
        ? `Once more: ${name(steps, how.from).toLowerCase()}`
        : `Once more from ${name(steps, how.from).toLowerCase()} to ${name(steps, how.to).toLowerCase()}`;
    case "extra":
      return `Put in: ${STEPS[how.step.kind].toLowerCase()}`;
    case "earlier":
      return `Drawn forward: ${name(steps, how.step).toLowerCase()}`;
    case "timed":
      return `${name(steps, how.step)} is to last ${span(how.lasts_s)}`;
    case "clamp":
      return how.shim_mm
        ? `${name(steps, how.step)}: clamped ${say.fine(how.shim_mm)} past straight`
        : `${name(steps, how.step)}: clamped straight`;
    case "heat":
      return `${name(steps, how.step)} is to be at ${say.temperature(how.temperature_c)}`;
  }
}

/** A heat that was done, for the start of a sentence. */
const DONE: Partial<Record<Step["kind"], string>> = {
  austenitize: "Hardened",
  normalize: "Normalized",
  refine: "Refined",
  anneal: "Annealed",
  stress_relief: "Stress relieved",
  preheat: "Preheated",
  temper: "Tempered",
  sub_zero: "Sub-zero",
};
const done = (kind: Step["kind"]) => DONE[kind] ?? STEPS[kind];

const DEPARTURES: Wording<Departure> = {
  heat: (f, say) =>
    `${done(f.kind)} ${say.difference(f.hotter_c)} ${f.hotter_c > 0 ? "hotter" : "cooler"} than planned`,
  held: (f) => `${done(f.kind)} for ${span(f.was_s)} instead of ${span(f.planned_s)}`,
  bath: (f) => `Quenched in ${MEDIA[f.was]} instead of ${MEDIA[f.planned]}`,
  bath_heat: (f, say) =>
    `The ${MEDIA[f.medium]} was ${say.difference(f.warmer_c)} ${f.warmer_c > 0 ? "warmer" : "colder"} than planned`,
  in_bath: (f) => `In the ${MEDIA[f.medium]} for ${span(f.was_s)} instead of ${span(f.planned_s)}`,
  left_out: (f) => `Left out: ${STEPS[f.kind].toLowerCase()}`,
  extra: (f) => `Beyond the plan: ${STEPS[f.kind].toLowerCase()}`,
};

/** What was done in another way than planned. */
export const departure = (of: Departure, say: Say) => word(DEPARTURES, of, say);

/** From where on it is hardened again. */
const FROM: Partial<Record<Step["kind"], string>> = {
  normalize: "from normalizing",
  refine: "from the refining heat",
  anneal: "from annealing",
};

/** What can be pressed for another way on. */
export function choice(of: Choice): string {
  const name = STEPS[of.kind];
  switch (of.what) {
    case "again":
      return `${name} once more`;
    case "harden_again":
      return `Harden again, ${FROM[of.from ?? "austenitize"] ?? "straight from hard"}`;
    case "left_out":
      if (of.round) return `Leave out: ${of.kind === "quench" ? "bath" : "round"} ${of.round}`;
      return `Leave out: ${name.toLowerCase()}`;
    case "next":
      return `${name} next`;
    case "put_in":
      return `Put in: ${name.toLowerCase()}`;
    case "longer":
      return `${span(of.by_s ?? 0)} longer`;
    case "shorter":
      return `${span(of.by_s ?? 0)} shorter`;
  }
}
