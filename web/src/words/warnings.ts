import type { PlanRisk } from "../api/client";
import { percent, type Say, type Wording, word } from "./quantities";
import { OLD } from "./salvage";
import { conflict } from "./steels";

const whole = (percent: number) => `${percent.toFixed(0)} %`;

const WARNINGS: Wording<PlanRisk> = {
  below_ac1: (f, say) =>
    `${say.temperature(f.temperature_c)} is below Ac1 (${say.temperature(f.ac1_c)}) of ${f.steel}: nothing becomes austenite, so nothing hardens.`,
  coarse_grain: (f, say) =>
    `${say.temperature(f.temperature_c)} is above ${say.temperature(f.coarsening_c)}, where grain of ${f.steel} coarsens within ten minutes.`,
  outside_window: (f, say) =>
    `${say.temperature(f.temperature_c)} is outside ${say.temperatures(f.low_c, f.high_c)}, the usual window of ${f.steel}.`,
  short_soak: (f, say) =>
    `${say.time(f.soak_s)} dissolves only ${percent(f.dissolved_share)} of the carbon this heat can hold. ${say.time(f.enough_s)} takes most of it.`,
  stainless_too_hot: (f, say) =>
    `Above ${say.temperature(f.limit_c)} ${f.steel} loses its stainlessness.`,
  brittle_temper: (f, say) =>
    `${say.temperatures(f.low_c, f.high_c)} is the brittle range: martensite tempered there snaps sooner than it is soft.`,
  clay_not_planned: () =>
    "Clay is painted for this blade, but no step lays it on and dries it: it is predicted bare.",
  clay_not_painted: () =>
    "No clay is laid out yet: paint it under Clay, or the line is computed bare.",
  clay_wet: (f, say) =>
    `Clay wants ${say.time(f.dry_s)} at ${say.temperature(f.dry_c)} or a night in the air; steam under it throws it off.`,
  straighten_hard: (f, say) =>
    `At ${f.hrc.toFixed(0)} HRC it springs back from anything under about ${say.about(f.springs_mm)}${f.snaps ? ", and steel this hard and rich snaps before it sets" : ""}. Clamp it past straight in a temper instead; if bent cold, gloves, eyes covered, nobody in line.`,
  edge_waves: (f, say) =>
    `An edge of ${say.about(f.edge_mm)} may ripple in this bath: by smiths' rule, not computed, ${say.about(f.rule_mm)} stays straight.`,
  clay_lets_go: (f, say) =>
    `Clay up to ${say.about(f.thickest_mm)} thick: ${percent(f.share)} of such coats crack as they dry or let go in the bath. Two thin coats, each dried, hold better.`,
  pouch_in_bath: () =>
    "A pouch keeps the bath off the blade: cut it open on the way, or quench between plates.",
  cold_straighten: () =>
    "Cold and untempered it snaps before it bends: straighten on the way down, or clamped in the temper.",
  tempered_warm: (f, say) =>
    `At ${say.temperature(f.temperature_c)} ${whole(f.austenite_percent)} austenite is left, at room temperature ${whole(f.at_room_percent)}. Tempering from warm is safer from cracks, and leaves it softer.`,
  waiting_for_cold: (f, say) =>
    `After ${say.time(f.wait_s)} the austenite has settled: sub-zero gains ${percent(f.lost_share)} less than straight after the quench.`,
  torch_untempered: () => "A torch on an untempered blade cracks it: temper first.",
  not_hardenable: (f) => `${f.steel} has too little carbon for an edge.`,
  thin_edge: (f, say) =>
    `The edge is ${say.fine(f.edge_mm)}: thin for a bare kiln. It can burn, ripple or lose its carbon; ${say.length(f.safe_mm)} or more is safer.`,
  no_normalize: (f) => `${f.steel} hardens in air; normalizing leaves it hard and strained.`,
  rising_heats: (f, say) =>
    `This normalizing heat is ${say.difference(f.rise_k)} hotter than the one before; falling heats leave finer grain.`,
  water_on_oil_steel: (f) => `${f.steel} is no water steel: in water it is likely to crack.`,
  out_into_air: (f, say) =>
    `After ${say.time(f.after_s)} in the last bath it comes out into still air, and is predicted so. Leave the time off to keep it in until it is cold.`,
  late_sub_zero: () => "Sub-zero after a temper gains little: the austenite has settled.",
  clay_too_low: () =>
    "Under this clay it stays soft where hardness is read: begin it higher, or lay it on thinner.",
  spine_stays_soft: (f, say) =>
    `The edge hardens; the spine (${say.about(f.spine_mm)}) is too thick for this quench, which reaches about ${say.about(f.reach_mm)}.`,
  too_thick: (f, say) =>
    `This section is too thick for this quench: it reaches about ${say.about(f.reach_mm)} in ${f.steel}. Expect a soft blade.`,
  no_temper: () => "There is no temper after the quench: the blade stays as brittle as glass.",
  used_engine_oil: () =>
    "Used engine oil: nobody knows how it quenches, and its smoke carries metals and acids. Vegetable oil costs little and does better.",
  layers_do_not_meet: (f, say) => conflict(f.conflict, say),
  steel_untried: (f) =>
    `Nobody knows what this is made of${f.was === "unknown_bar" ? "" : `: it was ${OLD[f.was]}`}. Quench and file a coupon before a blade of it goes into the fire.`,
  outside_formulas: (f) =>
    `The analysis of ${f.steel} lies outside what the formulas were tried for: take the numbers as a guess, and try a coupon first.`,
  melts: (f, say) =>
    `${say.temperature(f.temperature_c)} is above ${say.temperature(f.solidus_c)}, where ${f.steel} begins to melt: it burns and is lost.`,
  partly_austenite: (f, say) =>
    `Only ${percent(f.share)} of it becomes austenite here; all of it does from ${say.temperature(f.upper_c)}. The rest stays soft.`,
  long_soak: (f, say) =>
    `After ${say.time(f.enough_s)} nothing more dissolves; ${say.time(f.soak_s)} coarsens the grain and burns the carbon out of the skin.`,
  temper_above_ac1: (f, say) =>
    `${say.temperature(f.temperature_c)} is above Ac1 (${say.temperature(f.ac1_c)}): it becomes austenite again, and cooling from there hardens or anneals it anew. This is no temper.`,
  temper_does_nothing: (f, say) =>
    `${say.temperature(f.temperature_c)} does next to nothing: the blade stays as brittle as quenched.`,
  beyond_temper_table: (f, say) =>
    `Nothing is known of a temper above ${say.temperature(f.hottest_c)}: it is predicted as if it were there.`,
  fresh_martensite: (f) =>
    `${whole(f.percent)} fresh martensite forms as it cools from the last temper, hard and brittle: one more temper takes care of it.`,
  not_cold: (f, say) => `${say.temperature(f.temperature_c)} is not cold: it turns no austenite.`,
  carbide_network: (f, say) =>
    `Cooled slowly from ${say.temperature(f.temperature_c)}, above ${say.temperature(f.acm_c)}, carbide makes a network around the grains that cracks start from. Normalize after it, and cool in air.`,
  soft_skin: (f, say) =>
    `Each face loses carbon ${say.fine(f.depth_mm)} deep: an edge of ${say.fine(f.edge_mm)} has little left inside and comes out at about ${f.edge_hrc.toFixed(0)} HRC. Leave the edge thicker and grind it after, or protect it.`,
  grinding_cracks: (f) =>
    `${f.hrc.toFixed(0)} HRC with ${whole(f.austenite_percent)} austenite left cracks under a hasty belt: grind cool and light, or turn the austenite first.`,
  wants_sub_zero: (f) =>
    `${whole(f.austenite_percent)} austenite is left over; sub-zero straight after the quench turns most of it.`,
};

/** What a plan risks, in a sentence. */
export const warned = (risk: PlanRisk, say: Say) => word(WARNINGS, risk, say);
