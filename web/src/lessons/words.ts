import type { Bias, CrackCount, OutcomeLesson, OutcomeName, Proposal } from "../api/client";
import type { Kind } from "../quantity/parse";
import { CLAYS, hrc } from "../words/names";

/** How the shop is shown lengths and temperatures. */
export interface Units {
  show: (kind: Kind, value: number) => string;
  about: (mm: number) => string;
  degrees: (c: number) => string;
}

export const OUTCOMES: Record<OutcomeName, string> = {
  tempered: "Hardness, tempered",
  as_quenched: "Hardness, as quenched",
  line: "Height of the hamon",
  band: "Width of its band",
  curve: "Curve to the spine",
  grain: "Grain",
};

/** More of it, and less of it. */
const WAYS: Record<OutcomeName, [string, string]> = {
  tempered: ["harder", "softer"],
  as_quenched: ["harder", "softer"],
  line: ["higher", "lower"],
  band: ["wider", "narrower"],
  curve: ["more to the spine", "more to the edge"],
  grain: ["finer", "coarser"],
};

/** Curves are told as on a blade of this length, mm. */
const CURVE_ON_MM = 240;

/** Outcomes that are told in millimetres or inches. */
export const isLength = (outcome: OutcomeName) =>
  outcome === "line" || outcome === "band" || outcome === "curve";

/** A value of an outcome, with its unit. */
export function amount(outcome: OutcomeName, value: number, units: Units): string {
  if (outcome === "grain") return `ASTM ${value.toFixed(1)}`;
  if (outcome === "as_quenched" || outcome === "tempered") return `${hrc(value)} HRC`;
  return units.about(value);
}

/** How far something was off, with its unit; a ratio as a factor. */
export function off(lesson: OutcomeLesson, rms: number, units: Units): string {
  if (lesson.lesson.measure === "ratio") return `a factor of ${Math.exp(rms).toFixed(1)}`;
  if (isLength(lesson.outcome)) return units.about(rms);
  return lesson.outcome === "grain" ? `${rms.toFixed(1)} numbers` : `${rms.toFixed(2)} HRC`;
}

/** What a bias amounts to: far enough to tell, in the words of the outcome. */
function far(lesson: OutcomeLesson, by: number, units: Units): string {
  const [more, less] = WAYS[lesson.outcome];
  const way = by >= 0 ? more : less;
  if (lesson.lesson.measure === "ratio") {
    const factor = Math.exp(Math.abs(by)).toFixed(1);
    return `${factor} times ${by >= 0 ? "as much" : "less"}`;
  }
  if (isLength(lesson.outcome)) return `${units.about(Math.abs(by))} ${way}`;
  if (lesson.outcome === "grain") return `${Math.abs(by).toFixed(1)} numbers ${way}`;
  return `${Math.abs(by).toFixed(1)} HRC ${way}`;
}

const results = (n: number) => (n === 1 ? "one result" : `${n} results`);
const blades = (n: number) => (n === 1 ? "one blade" : `${n} blades`);

/** What the records say of an outcome, plainest first. */
export function sentences(l: OutcomeLesson, units: Units): string[] {
  const { lesson } = l;
  const all = [
    `From ${results(lesson.results)} on ${blades(lesson.blades)}: physics alone is off by ${off(l, lesson.before_rms, units)}; with your records, each blade predicted from all the others, by ${off(l, lesson.after_rms, units)}.`,
  ];
  if (l.outcome === "curve")
    all.push(`Told as on a blade ${units.show("length", CURVE_ON_MM)} long.`);
  const small = lesson.measure === "ratio" ? 0.05 : 0.1;
  all.push(
    Math.abs(lesson.bias) < small
      ? "On the whole it comes out as physics says."
      : `On the whole it comes out ${far(l, lesson.bias, units)} ${lesson.measure === "ratio" && lesson.bias > 0 ? "as" : "than"} physics says.`,
  );
  const held = `The intervals held ${Math.round(100 * lesson.coverage)} % of what was measured; they promise 90.`;
  all.push(
    {
      too_few: `${held} That is too few results to judge them by.`,
      kept: held,
      narrow: `${held} That is no chance: take them as narrower than they should be.`,
      wide: `${held} That is no chance: they could be narrower.`,
    }[lesson.promise],
  );
  const first = lesson.curve[0];
  const last = lesson.curve[lesson.curve.length - 1];
  if (first && last && first !== last) {
    all.push(
      `On the day, the first ${blades(first.blades)} were predicted to ${off(l, first.rms, units)}, the last ${blades(last.blades)} to ${off(l, last.rms, units)}; physics alone was off by ${off(l, last.physics_rms, units)} on those.`,
    );
  }
  return all;
}

/** Of what: kinds of clay have a name of the interface's. */
export const nameOf = (of: { share: Bias["share"]; name: string }) =>
  of.share.of === "clay" ? CLAYS[of.share.mix] : of.name;

/** Whose doing, in the order of the work. */
const SHARES: [Bias["share"]["of"], string][] = [
  ["shop", "The whole shop"],
  ["steel", "Steels"],
  ["kiln", "Fires"],
  ["tank", "Tanks"],
  ["clay", "Clays"],
  ["operator", "Hands"],
  ["oven", "Ovens"],
  ["tester", "Testers"],
];

/** Whatever is told by what it shares, in the order of the work; groups of nothing are left out. */
export function grouped<T extends { share: Bias["share"] }>(
  all: T[],
): { title: string; own: T[] }[] {
  return SHARES.map(([share, title]) => ({
    title,
    own: all.filter((one) => one.share.of === share),
  })).filter((group) => group.own.length > 0);
}

/** True where a bias is of a temperature, not of the outcome. */
export const isHeat = (b: Bias) => b.share.of === "kiln" || b.share.of === "oven";

/** What a steel, a station, a tank or a hand was found to do. */
export function biased(l: OutcomeLesson, b: Bias, units: Units): string {
  if (isHeat(b)) {
    const check =
      b.by_check_c === null || b.by_check_c === undefined
        ? "never checked"
        : `its last check says ${units.degrees(b.by_check_c)}`;
    return `${units.degrees(Math.abs(b.by)).slice(1)} ${b.by >= 0 ? "hotter" : "cooler"} than set; ${check}`;
  }
  if (b.share.of === "tester") {
    return `reads ${Math.abs(b.by).toFixed(1)} HRC ${b.by >= 0 ? "high" : "low"}`;
  }
  return far(l, b.by, units);
}

/** The interval of a bias in figures. */
export function between(l: OutcomeLesson, b: Bias, units: Units): string {
  const [low, high] = [b.by - b.give_or_take, b.by + b.give_or_take];
  if (isHeat(b)) return `${units.degrees(low).replace(/\s*°.*/, "")} to ${units.degrees(high)}`;
  if (l.lesson.measure === "ratio") {
    return `× ${Math.exp(low).toFixed(1)} to ${Math.exp(high).toFixed(1)}`;
  }
  const signed = (v: number, size: string) => (v >= 0 ? `+${size}` : `−${size}`);
  const length = (v: number) => {
    const size = units.about(Math.abs(v));
    return /[1-9]/.test(size) ? signed(v, size) : size;
  };
  if (isLength(l.outcome)) return `${length(low)} to ${length(high)}`;
  const number = (v: number) => {
    const size = Math.abs(v).toFixed(1);
    return size === "0.0" ? size : signed(v, size);
  };
  return `${number(low)} to ${number(high)}`;
}

/** Biases worth a line: sure ones, and those that enough results stand behind. */
export const worth = (b: Bias) => b.sure || b.results >= 3 || b.share.of === "shop";

/** Cracks of some blades against what was to be expected of them. */
export function counted(c: CrackCount): string {
  const many = (n: number) => (n === 0 ? "none" : `${n}`);
  const range =
    c.low === c.high
      ? `${many(c.low)}`
      : `${many(c.low)} to ${many(c.high)}, nine times out of ten`;
  const looked = c.looked_at === 1 ? "one look" : `${c.looked_at} looks`;
  return `${many(c.cracked)} cracked in ${looked}; ${c.expected.toFixed(1)} to be expected (${range})`;
}

/** More or fewer cracked than chance allows. */
export const beyond = (c: CrackCount) => c.cracked > c.high || c.cracked < c.low;

/** What to do, as a sentence. */
export function toDo(p: Proposal, units: Units): string {
  switch (p.measurement.kind) {
    case "thermometer":
      return `Put a thermometer beside the work in ${p.name}.`;
    case "blocks":
      return `Read test blocks with ${p.name}.`;
    case "read_as_quenched":
      return `Read the next blade of ${p.name} before you temper it, skin off and cold.`;
    default:
      return `Quench a coupon with the next blade of ${p.name}, temper it at ${units.show("temperature", p.measurement.temper_c)} and read it.`;
  }
}

/** What it would tell. */
export function teaches(p: Proposal): string {
  const of = p.teaches.of === "steel" ? "of it" : "of blades that meet it";
  const about = p.teaches_name === p.name ? "it" : p.teaches_name;
  return `It tells most about ${about}: what is unknown ${of} goes from ± ${p.now_hrc.toFixed(2)} to ± ${p.then_hrc.toFixed(2)} HRC.`;
}
