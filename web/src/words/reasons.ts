import type {
  CheckReach,
  CrackCause,
  Drawback,
  Help,
  Next,
  NoLine,
  OtherTemper,
  OutcomeValue,
  Prediction,
  Reason,
  SpreadFrom,
  TemperFor,
  Why,
} from "../api/client";
import { changeLabel } from "./changes";
import { FURNACES_IN, MEDIA, PARTS } from "./names";
import { percent, type Say, type Wording, word } from "./quantities";
import { OLD } from "./salvage";
import { LIGHTS, sighting, TEMPER_COLOURS } from "./sightings";
import { DRIVERS } from "./warp";

const whole = (percent: number) => `${percent.toFixed(0)} %`;

const CRACK_CAUSES: Record<CrackCause, string> = {
  carbon: "The carbon in solution makes hard, brittle martensite.",
  late_martensite: "Martensite forms late, in a cold and stiff blade.",
  severe_medium: "The medium still takes heat fast where martensite forms.",
  wrong_medium: "This steel hardens in a milder medium than this one.",
  left_hot: "It leaves the bath before it is cold: what turns last turns slowly.",
  held: "Held between plates.",
  not_normalized: "Forged and not normalized.",
  requenched: "Quenched again without normalizing.",
  section: "Thin edge beside a thick spine.",
  stress_raisers: "Scratches, sharp corners or holes as they are raise the stress.",
  overheated: "Hotter than the steel's window.",
  untempered: "Waiting hard and untempered.",
  coarse_grain: "Coarse grain: it cracks along its boundaries.",
  skin: "A skin without carbon turns first and is drawn apart.",
  inside_corners: "A sharp inside corner in its outline.",
  clay_lets_go: "Clay this thick may let go in the bath and bare the steel.",
  unclean: "More phosphorus and sulphur than tool steels may hold.",
};

const LEVELS = {
  table:
    "Ac1 and the upper line from the table; martensite start by formula from what is dissolved.",
  formula: "By formulas from the analysis.",
  trial: "By formulas for the carbon and manganese it behaves as if it had.",
  likeliest: "By formulas for the likeliest of what it may be made of.",
  out_of_range: "By formulas outside the range they were made for: wider.",
};

const STRUCTURES = { normalized: "a normalized structure", spheroidized: "carbides in balls" };

/** What a hardness is unsure of, for a list. */
const SPREADS: Record<SpreadFrom, string> = {
  steel: "the steel's numbers",
  bar: "bars of it",
  analysis: "carbon the standard leaves open",
  fire: "the fire's heat",
  eye: "the eye",
  oven: "the oven's heat",
  temper_colour: "the colour of the temper",
  soak: "what the soak dissolves",
  transformation: "how soon it turns soft",
  medium: "the bath",
  transfer: "the way to the bath",
  temper_curve: "the temper curve",
  thickness: "thickness",
  shop: "the shop",
  tester: "the tester",
  blade: "blade to blade",
  reading: "readings",
};

const NO_LINES: Wording<NoLine> = {
  never_hot: (f, say) => `Never above Ac1 (${say.temperature(f.ac1_c)}): nothing hardens.`,
  hardens_through: () =>
    "It hardens right through to the spine: nothing soft for a line to border on.",
  stays_soft: () => "Even the edge stays soft over the whole length.",
  too_short: (f) => {
    const parts = [
      [f.soft_share, "stays soft to the edge"],
      [f.through_share, "hardens right through to the spine"],
      [f.line_share, "carries a line"],
    ] as const;
    const told = parts.filter(([share]) => share >= 0.05);
    return `Of its length ${told.map(([share, what]) => `${percent(share)} ${what}`).join(", ")}: too little for a line.`;
  },
};

/** Why there is no line, in a sentence. */
export const noLine = (none: NoLine, say: Say) => word(NO_LINES, none, say);

/** Hotter or cooler than set, by how much. */
const runs = (by: number, say: Say) => `${say.difference(by)} ${by > 0 ? "hot" : "cool"}`;

/** Where and how long ago a station was checked, for the inside of a sentence. */
function checked(reach: CheckReach, say: Say): string {
  const { nearest_c, age_days } = reach;
  const at = nearest_c == null ? "" : `at ${say.temperature(nearest_c)} `;
  const ago = age_days == null ? "" : `${(age_days / 30.4).toFixed(0)} months ago `;
  return at + ago;
}

const WHY: Wording<Why> = {
  levels: (f) => LEVELS[f.source],
  dissolved: (f) =>
    `${percent(f.share)} of what this heat can hold went into solution, from ${STRUCTURES[f.structure]}.`,
  martensite_start: (f, say) =>
    `${f.carbon_percent.toFixed(2)} % carbon dissolved; martensite starts at ${say.temperature(f.start_c)}.`,
  known_by_analysis: (f) =>
    f.near
      ? "Known by its analysis only, close to a steel in the table."
      : "Known by its analysis only and unlike the steels in the table: the interval is wide.",
  known_by_trial: () =>
    "Known by a coupon trial only: its carbon is a guess, and the interval as wide as that.",
  known_by_salvage: (f) =>
    `Known by what it was, ${OLD[f.was]}${f.tried ? ", and what was tried of it" : "; nothing of it was tried"}: ${f.low_percent.toFixed(2)} to ${f.high_percent.toFixed(2)} % carbon, and the interval as wide as all that it may be.`,
  martensite_of: (f) =>
    `Martensite of ${f.carbon_percent.toFixed(2)} % carbon${f.carbide_percent >= 0.5 ? ` with ${f.carbide_percent.toFixed(0)} % carbide in it` : ""} is ${f.hrc.toFixed(1)} HRC.`,
  temper_turns_austenite: (f) => `The tempers turn ${whole(f.percent)} of austenite.`,
  austenite_left: (f) => `${whole(f.percent)} austenite left over.`,
  cold_turns: (f) => `Sub-zero turns ${whole(f.percent)} of it.`,
  cold_would_leave: (f, say) =>
    `${say.temperature(f.cold_c)} straight after the quench would leave ${whole(f.percent)}.`,
  partly_martensite: (f) => `Only ${whole(f.percent)} martensite where hardness is read.`,
  temper_takes: () => "What the temper takes from the quenched hardness.",
  no_results: () =>
    "No results of your own yet: typical published numbers. A few blades with readings narrow this.",
  shop_results: () => "What your results have in common.",
  tester_reads: (f) => `${f.station ?? "The tester"} reads ${f.high ? "high" : "low"}.`,
  steel_results: (f) =>
    f.results === 1 ? "Your one result on this steel." : `Your ${f.results} results on this steel.`,
  bar_results: () => "Your results from this bar.",
  kiln_runs: (f, say) => `${f.station ?? "The fire"} runs ${runs(f.by_k, say)}.`,
  eye_runs: (f, say) =>
    `By your results steel is ${say.difference(Math.abs(f.by_k))} ${f.by_k > 0 ? "hotter" : "cooler"} than ${f.eye ? `${f.eye} says` : "is said"}.`,
  heat_by_eye: (f, say) => {
    const about = `about ${say.temperature(f.middle_c)}, give or take ${say.difference(f.deviation_c)}`;
    const sign = sighting(f.sign);
    if (f.sign.sign !== "colour") return `Judged by magnet and shadow: ${sign} at ${about}.`;
    const whose = f.eye ? `${f.eye}'s eye` : "An eye nobody tried";
    const known =
      f.looks > 0 ? `, known from ${f.looks} looks beside a thermocouple` : ", never tried";
    return `Judged by colour, ${sign}: ${about}. ${whose}${f.eye ? known : ""}.`;
  },
  temper_by_colour: (f, say) =>
    `Tempered by colour, ${TEMPER_COLOURS[f.colour]} ${LIGHTS[f.light]}: about ${say.temperature(f.middle_c)}, give or take ${say.difference(f.deviation_c)}, which is ${f.hrc.toFixed(1)} HRC. It has to be clean and bare to show, and comes sooner the longer it is held.`,
  line_over_heat: (f, say) =>
    `The heat is sure to ${say.difference(f.deviation_c)} only: that is ${say.about(f.mm)} of the line, up or down.`,
  grain_over_heat: (f, say) =>
    `The heat is sure to ${say.difference(f.deviation_c)} only: one in twenty is as coarse as ASTM ${f.coarsest_astm.toFixed(1)}.`,
  crack_over_heat: (f, say) =>
    `The mean over a heat that is sure to ${say.difference(f.deviation_c)} only; at the planned one it is ${percent(f.at_planned)}.`,
  fire_uneven: (f, say) => {
    const sure =
      f.scatter_c > 0
        ? ` and the blade is within ${say.difference(f.scatter_c)} of what is set, two times in three`
        : "";
    return `In ${FURNACES_IN[f.fire]} the tip runs about ${say.difference(f.tip_hotter_c)} hotter than the middle${sure}: keep it moving.`;
  },
  oven_runs: (f, say) => `${f.station ?? "The oven"} runs ${runs(f.by_k, say)}.`,
  tank_results: (f) =>
    `Your results in ${MEDIA[f.medium]}.${
      f.faster_share == null
        ? ""
        : ` It takes heat about ${percent(Math.abs(f.faster_share))} ${f.faster_share > 0 ? "faster" : "slower"} than its kind.`
    }`,
  pace_results: (f) =>
    `Your results on this steel: it turns soft about ${percent(Math.abs(f.slower_share))} ${f.slower_share > 0 ? "slower" : "sooner"} than computed.`,
  operator_results: (f, say) =>
    `${f.operator ? `Blades that ${f.operator} quenched.` : "Blades of the same hand."}${
      f.slower_s == null
        ? ""
        : ` The way to the bath takes about ${say.time(Math.abs(f.slower_s))} ${f.slower_s > 0 ? "longer" : "less"} than planned.`
    }`,
  width_from: (f) =>
    `How sure: ${f.parts
      .slice(0, 6)
      .map((part) => `${SPREADS[part.of]} ±${part.hrc.toFixed(1)}`)
      .join(", ")}.`,
  temper_results: () => "Your results near this temper.",
  thickness_results: () => "Your results near this thickness.",
  learned: (f) =>
    `Learned from ${f.results === 1 ? "one result" : `${f.results} results`}, ${f.on_steel} on this steel: physics alone said ${f.physics_hrc.toFixed(1)}; the width is ${f.width_hrc.toFixed(1)} HRC instead of ${f.width_before_hrc.toFixed(1)}.`,
  check_counted: (f, say) => {
    const faded = f.faded
      ? ` It was checked ${checked(f.faded, say)}and tells ${percent(f.faded.tells)} of what it would tell fresh and here.`
      : "";
    return `${f.station ?? "It"} runs ${runs(f.by_k, say)} at ${say.temperature(f.shown_c)} by its last check; counted.${faded}`;
  },
  check_tells_little: (f, say) =>
    `${f.station ?? "It"} was checked ${checked(f.reach, say).trimEnd()}: that says little of ${say.temperature(f.shown_c)}, which stays as unknown as before.`,
  temper_slope: (f, say) =>
    `Each ${say.degree} of this temper takes ${say.perDegree(f.hrc_per_k).toFixed(2)} HRC; the width of the hardness sets that of the temperature.`,
  torched: (f) =>
    `The torch leaves the ${PARTS[f.part]} at about ${f.hrc.toFixed(0)} HRC; where it is read nothing changes.`,
  line_at: (f, say) =>
    `Half martensite ${say.about(f.height_mm)} above the edge on the mean; the change from hard to soft takes ${say.about(f.band_mm)}: ${f.crisp ? "a crisp line" : "a soft, cloudy line"}.`,
  line_from_records: () =>
    "The engine sees no line here; your own records of blades like this put one there.",
  twists: (f, say) =>
    `What differs from face to face bends it one way near the heel and the other near the tip: ${say.about(f.twist_mm)} comes back.`,
  curves_moved: (f, say) =>
    `Your own blades curved ${say.about(Math.abs(f.by_mm))} more to the ${f.by_mm > 0 ? "spine" : "edge"} than simulated.`,
  lines_moved: (f, say) =>
    `Your own lines came out ${say.about(Math.abs(f.by_mm))} ${f.by_mm > 0 ? "higher" : "lower"} than simulated.`,
  no_line: (f, say) => noLine(f.none, say),
  clay_must_hold: (f, say) =>
    `Clay that cracks off in the quench ruins the line; it dries overnight or in ${say.time(f.dry_s)} at ${say.temperature(f.dry_c)}.`,
  middle_hardens: (f) =>
    `${whole(f.percent)} of the middle of the blade hardens; grain ${f.grain_astm.toFixed(1)} and ${f.carbon_percent.toFixed(2)} % carbon in solution set how fast it must cool.`,
  stays_straight: () => "It stays straight from edge to spine.",
  curves: (f, say) =>
    f.sori_mm > 0
      ? `The edge ends longer than the spine: it curves ${say.about(f.sori_mm)} towards the spine.`
      : `The spine ends longer than the edge: it curves ${say.about(-f.sori_mm)} towards the edge.`,
  warp_from: (f, say) =>
    `Sideways, ${DRIVERS[f.driver]}: ${say.fine(f.mm)} as blades go${
      Math.abs(f.times - 1) > 0.05 ? `, ${f.times.toFixed(1)} times the usual by your records` : ""
    }.`,
  clamped_in_temper: (f, say) =>
    `Clamped to something straight in the temper at ${say.temperature(f.temper_c)}, ${whole(100 * f.takes_out)} of what it is bent by there stays, ${f.tried > 0 ? `by the ${f.tried} you wrote down` : "by rule of thumb"}: shim it ${f.shim_per_mm.toFixed(1)} times its bow past straight.`,
  uneven_cooling: (f, say) =>
    `A tenth more cooling on one face bends it ${say.fine(f.per_tenth_mm)} sideways; quenches differ by about ${whole(f.unevenness_percent)} from face to face.`,
  uneven_clay: (f, say) =>
    `The clay differs from face to face: that alone bends it ${say.about(f.side_mm)} sideways.`,
  uneven_bevels: (f, say) =>
    `The bevels differ from side to side: that alone bends it ${say.about(f.side_mm)} sideways.`,
  crack_cause: (f) => `${CRACK_CAUSES[f.cause]} Odds × ${f.odds.toFixed(1)}.`,
  cracks_by_handbook: () =>
    "From what smiths and handbooks say; your own cracked and sound blades will move it.",
  cracks_by_records: (f) =>
    f.blades === 1 ? "With one blade of your own." : `With ${f.blades} blades of your own.`,
  coupons_finer: (f) =>
    `Your broken coupons were ${Math.abs(f.by_astm).toFixed(1)} numbers ${f.by_astm > 0 ? "finer" : "coarser"} than computed.`,
  grain_at_quench: (f) =>
    `Mean grain ${f.grain_um.toFixed(0)} µm when it is quenched; each pass through critical halves it, down to ${f.finest_um.toFixed(0)} µm, and time at heat lets it grow.`,
  skin_lost: (f, say) =>
    `${say.fine(f.depth_mm)} of skin loses carbon on each face${
      f.edge_gone
        ? ": the edge is thinner than that, grind it after hardening or protect it"
        : "; grind it off before you test"
    }.`,
  bath_warms: (f, say) =>
    `${Number(f.litres.toFixed(1))} litres of ${MEDIA[f.medium]} are at ${say.temperature(Math.round(f.first_c))} after one such blade and at ${say.temperature(Math.round(f.fifth_c))} after five, if nothing cools between${f.too_hot_after ? `; from blade ${f.too_hot_after} on it is too hot to work with` : ""}.`,
  soak_from: (f, say) =>
    `In ${FURNACES_IN[f.furnace]} the edge is at heat after ${say.time(60 * Math.round(f.edge_s / 60))}, the thickest part after ${say.time(60 * Math.round(f.ready_after_s / 60))}: count the soak from then, ${say.time(f.soak_s)} or more.`,
};

/** Why an outcome was predicted as it was, in a sentence. */
export const because = (reason: Reason, say: Say) => word(WHY, reason as Why, say);

/** How the quench goes through the section, in a sentence. */
export function through(p: Pick<Prediction, "through" | "levels">, say: Say): string {
  const { verdict, critical_thickness_mm, spine_mm, by_clay, case_mm } = p.through;
  const hard =
    case_mm == null || by_clay
      ? ""
      : ` At the spine it is hard to ${say.fine(case_mm)} from each face.`;
  const reach = say.about(critical_thickness_mm);
  const spine = spine_mm ? `, the spine is ${say.about(spine_mm)}` : "";
  switch (verdict) {
    case "never_hot":
      return `Never above Ac1 (${say.temperature(p.levels.ac1_c.middle)}): nothing hardens.`;
    case "hardens_through":
      return critical_thickness_mm > 100
        ? "Hardens through: this steel hardens far deeper than any blade here."
        : `Hardens through: this quench reaches ${reach}${spine}.`;
    case "spine_stays_soft":
      return by_clay
        ? "The edge hardens; under the clay the spine stays softer."
        : `The edge hardens, the spine stays softer: this quench reaches ${reach}${spine}.${hard}`;
    case "too_thick":
      return by_clay
        ? "Under this clay it stays soft where hardness is read."
        : `The section is too thick for this medium: it reaches only ${reach}.${hard}`;
  }
}

const DRAWBACKS: Record<Drawback, string> = {
  rusts: "there it loses its stainlessness",
  brittle: "that is the brittle range",
  keeps_austenite: "it keeps its austenite and softens in use",
  less_tough: "there it is less tough",
};

/** Another temper for the same hardness, in a sentence. */
export const alsoAt = (also: OtherTemper, say: Say) =>
  `${say.temperature(also.temperature_c)} gives it too, but ${DRAWBACKS[also.drawback]}.`;

/** The temper for the wanted hardness, or why there is none, in a sentence. */
export function temperFor(t: TemperFor, say: Say): string {
  const wanted = `${t.wanted_hrc.toFixed(1)} HRC`;
  if (t.temperature_c != null && t.interval_c) {
    const also = t.also ? ` ${alsoAt(t.also, say)}` : "";
    return `${say.temperature(t.temperature_c)} for ${wanted}; nine in ten between ${say.temperatures(t.interval_c.low, t.interval_c.high).replace(" to ", " and ")}.${also}`;
  }
  const why = t.out_of_reach;
  switch (why?.code) {
    case "too_hard":
      return `${wanted} is more than this plan reaches: ${why.top_hrc.toFixed(1)} at the coolest temper.`;
    case "too_soft":
      return `No temper up to ${say.temperature(why.hottest_c)} brings this down to ${wanted}.`;
    default:
      return "Add a temper to the plan first.";
  }
}

const TEACHES = {
  oven: "how your oven runs there",
  fire: "how true your fire runs",
  solution: "whether the carbon had gone into solution",
  austenite: "how much austenite was left",
};

/** What a change would do for the wanted hardness and what it would teach, in a sentence. */
export const next = (n: Next, say: Say) =>
  `${changeLabel(n.fix, say)} raises the chance of ${n.low_hrc} to ${n.high_hrc} HRC from ${(100 * n.chance_now).toFixed(0)} to ${percent(n.chance_then)}, and would show ${TEACHES[n.teaches]}.`;

const HELPED: Partial<Record<Help["about"], string>> = {
  tempered: "Hardness",
  crack: "Cracks",
  bend: "Bent sideways",
  grain: "Grain",
  retained_austenite: "Austenite left",
  decarburization: "Skin lost",
  hamon: "Line",
};

const VALUES: Wording<OutcomeValue> = {
  hardness: (f) => `${f.hrc.toFixed(1)} HRC`,
  crack: (f) => percent(f.probability),
  bend: (f) => percent(f.probability),
  grain: (f) => `ASTM ${f.astm.toFixed(1)}`,
  austenite: (f) => whole(f.percent),
  skin: (f, say) => say.fine(f.depth_mm),
  line: (f, say) => say.about(f.height_mm),
  no_line: () => "no line",
};

const COSTS: Wording<OutcomeValue> = {
  ...VALUES,
  hardness: (f) => `hardness then ${f.hrc.toFixed(1)} HRC`,
  crack: (f) => `cracks ${percent(f.probability)}`,
  grain: (f) => `grain ASTM ${f.astm.toFixed(1)}`,
  line: (f, say) => `the line at ${say.about(f.height_mm)}`,
  no_line: () => "no line any more",
};

/** What a change does for an outcome, and what it costs elsewhere, in a sentence. */
export function helps(h: Help, say: Say): string {
  const costs = h.costs.map((c) => word(COSTS, c, say)).join(", ");
  return `${HELPED[h.about] ?? ""} ${word(VALUES, h.from, say)} → ${word(VALUES, h.to, say)}${costs ? `; costs: ${costs}` : ""}.`;
}
