import type { Aspect, ComparedBlade, ComparedPair, Step } from "../api/client";
import { stepSentence } from "../drawing/step-words";
import type { Kind } from "../quantity/parse";
import { EDGE, SCRAP, WORK } from "../readings/finding-kinds";
import { GRINDS, hrc, PROTECTIONS, SHAPES } from "../words/names";

interface Units {
  show: (kind: Kind, value: number) => string;
  about: (mm: number) => string;
}

/** In what blades differ, as a row is headed. */
export const ASPECTS: Record<Aspect, string> = {
  steel: "Steel",
  bar: "Bar",
  sizes: "Shape and sizes",
  before: "Heats before",
  protection: "Carbon kept in by",
  clay: "Clay",
  heat: "Hardening heat",
  quench: "Quench",
  operator: "Hand",
  cold: "Cold",
  temper: "Temper",
  tester: "Tester",
};

/** The same inside a sentence. */
const THE: Record<Aspect, string> = {
  steel: "the steel",
  bar: "the bar",
  sizes: "shape and sizes",
  before: "the heats before",
  protection: "what kept the carbon in",
  clay: "the clay",
  heat: "the hardening heat",
  quench: "the quench",
  operator: "the hand",
  cold: "the cold",
  temper: "the temper",
  tester: "the tester",
};

/** Smallest effect worth naming, HRC and mm. */
const WORTH = 0.1;

const steps = (all: Step[], units: Units, none: string) =>
  all.length === 0 ? none : all.map((s) => stepSentence(s, units.show)).join("; ");

/** What a blade was in that respect. */
export function was(of: ComparedBlade, aspect: Aspect, units: Units): string {
  const length = (mm: number) => units.show("length", mm);
  const at = (station: string | null | undefined) => (station ? `, ${station}` : "");
  switch (aspect) {
    case "steel":
      return of.steel_name;
    case "bar":
      return of.bar_name ?? "no bar named";
    case "sizes":
      return `${SHAPES[of.shape] ?? of.shape}, ${length(of.length_mm)} × ${length(of.width_mm)}, spine ${length(of.spine_mm)}, edge ${length(of.edge_mm)}, ${GRINDS[of.grind] ?? of.grind}`;
    case "before":
      return steps(of.done.before, units, "none");
    case "protection":
      return PROTECTIONS[of.protection] ?? of.protection;
    case "clay":
      if (!of.clay) return "bare";
      return of.clay_band
        ? `${length(of.clay_band.thickness_mm)} from ${length(of.clay_band.from_edge_mm)} above the edge`
        : "painted freely";
    case "heat":
      return steps(of.done.heat, units, "none") + at(of.kiln);
    case "quench":
      return steps(of.done.quench, units, "none");
    case "operator":
      return of.operator ?? "not said";
    case "cold":
      return steps(of.done.cold, units, "none");
    case "temper":
      return steps(of.done.temper, units, "none") + at(of.oven);
    case "tester":
      return of.tester ?? "not said";
  }
}

const signed = (v: number, unit: string) => `${v >= 0 ? "+" : "−"}${Math.abs(v).toFixed(1)}${unit}`;

/** What a difference did, empty when it is not worth saying; null where there is no difference. */
export function did(pair: ComparedPair, aspect: Aspect, units: Units): string | null {
  const effect = pair.effects.find((e) => e.aspect === aspect);
  if (!effect) return null;
  const all = effect.engine_hrc + effect.records_hrc;
  const line = effect.line_mm ?? 0;
  const parts = [
    Math.abs(all) >= WORTH ? signed(all, " HRC") : "",
    Math.abs(line) >= WORTH ? `line ${line >= 0 ? "+" : "−"}${units.about(Math.abs(line))}` : "",
  ].filter(Boolean);
  return parts.join(", ");
}

/** How much of the difference in hardness is explained, HRC. */
export const explained = (pair: ComparedPair) =>
  pair.effects.reduce((sum, e) => sum + e.engine_hrc + e.records_hrc, 0);

const way = (v: number, [more, less]: [string, string]) => (v >= 0 ? more : less);

/** A list in a sentence: a, b and c. */
function list(all: string[]): string {
  const last = all.at(-1) ?? "";
  return all.length < 2 ? last : `${all.slice(0, -1).join(", ")} and ${last}`;
}

/** What came of the differences, in sentences. */
export function explain(
  first: ComparedBlade,
  other: ComparedBlade,
  pair: ComparedPair,
  units: Units,
): string[] {
  const stage = pair.when === "tempered" ? "tempered" : "as quenched";
  const named = pair.effects
    .map((e) => [e.aspect, e.engine_hrc + e.records_hrc] as const)
    .filter(([, v]) => Math.abs(v) >= WORTH)
    .sort((a, b) => Math.abs(b[1]) - Math.abs(a[1]))
    .map(([aspect, v]) => `${THE[aspect]} ${signed(v, "")}`);
  const sum = explained(pair);
  const why = named.length > 0 ? `: ${list(named)}` : "";
  const all: string[] = [];
  const measured = pair.measured_hrc;
  if (measured === null || measured === undefined) {
    all.push(
      `Not both were read. ${other.mark} is expected ${Math.abs(sum).toFixed(1)} HRC ${way(sum, ["harder", "softer"])} than ${first.mark}, ${stage}${why}.`,
    );
  } else {
    const rest = measured - sum;
    const told =
      Math.abs(rest) < 0.3
        ? "That is all of it, as near as it is read"
        : `${signed(rest, " HRC")} is explained by nothing that is written down`;
    const same = Math.abs(measured) < WORTH;
    all.push(
      same
        ? `${other.mark} was read as hard as ${first.mark}, ${stage}.`
        : `${other.mark} was read ${Math.abs(measured).toFixed(1)} HRC ${way(measured, ["harder", "softer"])} than ${first.mark}, ${stage}.`,
      `Engine and records say ${signed(sum, " HRC")}${why}. ${told}.`,
    );
  }
  const lines = pair.effects
    .map((e) => [e.aspect, e.line_mm ?? 0] as const)
    .filter(([, v]) => Math.abs(v) >= WORTH)
    .sort((a, b) => Math.abs(b[1]) - Math.abs(a[1]))
    .map(([aspect, v]) => `${THE[aspect]} ${v >= 0 ? "+" : "−"}${units.about(Math.abs(v))}`);
  const moved = pair.measured_line_mm;
  if (moved !== null && moved !== undefined) {
    all.push(`Its hamon sat ${units.about(Math.abs(moved))} ${way(moved, ["higher", "lower"])}.`);
  }
  if (lines.length > 0) all.push(`Of the height of the hamon the engine says: ${list(lines)}.`);
  return all;
}

/** An outcome of a blade: what was measured, and what was foreseen of it. */
export interface Cell {
  measured: string;
  foreseen: string;
}

const percent = (p: number) => (p < 0.01 ? "under 1 %" : `${Math.round(100 * p)} %`);

/** The rows of what came of it: only those that something is known of. */
export function cameRows(blades: ComparedBlade[], units: Units): { name: string; cells: Cell[] }[] {
  const hardness = (v: number | null | undefined) => (v ? `${hrc(v)} HRC` : "");
  const between = (i: { low: number; high: number }) => `${hrc(i.low)} to ${hrc(i.high)}`;
  const mm = (v: number | null | undefined) =>
    v === null || v === undefined ? "" : units.about(v);
  const rows: [string, (b: ComparedBlade) => Cell][] = [
    [
      "Hardness as quenched",
      (b) => ({
        measured: hardness(b.read.as_quenched_hrc),
        foreseen: between(b.foreseen.as_quenched),
      }),
    ],
    [
      "Hardness tempered",
      (b) => ({
        measured: hardness(b.read.tempered_hrc),
        foreseen: `${between(b.foreseen.tempered)}, wanted ${b.target_low_hrc} to ${b.target_high_hrc}`,
      }),
    ],
    [
      "Height of the hamon",
      (b) => ({
        measured: mm(b.came.line_mm),
        foreseen: b.foreseen.line
          ? `${units.about(b.foreseen.line.low)} to ${units.about(b.foreseen.line.high)}`
          : "",
      }),
    ],
    ["Width of its band", (b) => ({ measured: mm(b.came.band_mm), foreseen: "" })],
    [
      "Bend from the quench",
      (b) => ({
        measured: mm(b.came.side_mm),
        foreseen: b.foreseen.side_ninety_mm
          ? `up to ${units.about(b.foreseen.side_ninety_mm)}`
          : "",
      }),
    ],
    [
      "Cracks",
      (b) => ({
        measured: b.came.cracked === true ? "cracked" : b.came.cracked === false ? "sound" : "",
        foreseen:
          b.foreseen.crack === null || b.foreseen.crack === undefined
            ? ""
            : `${percent(b.foreseen.crack)} to crack`,
      }),
    ],
    [
      "Grain",
      (b) => ({
        measured: b.came.grain_astm ? `ASTM ${b.came.grain_astm.toFixed(1)}` : "",
        foreseen: b.foreseen.grain_astm
          ? `${b.foreseen.grain_astm.low.toFixed(1)} to ${b.foreseen.grain_astm.high.toFixed(1)}`
          : "",
      }),
    ],
    [
      "Edge trials",
      (b) => ({
        measured: b.came.trials.map((t) => `${WORK[t.work]}: ${EDGE[t.edge]}`).join("; "),
        foreseen: "",
      }),
    ],
    [
      "Burned at the belt",
      (b) => ({
        measured: b.came.burns === 0 ? "" : b.came.burns === 1 ? "once" : `${b.came.burns} times`,
        foreseen: "",
      }),
    ],
    [
      "Given up",
      (b) => ({ measured: b.came.scrapped ? SCRAP[b.came.scrapped] : "", foreseen: "" }),
    ],
  ];
  return rows
    .map(([name, of]) => ({ name, cells: blades.map(of) }))
    .filter((r) => r.cells.some((c) => c.measured !== ""));
}
