import type { Step } from "../api/client";
import type { Say } from "./quantities";

type Quench = Extract<Step, { kind: "quench" }>;
type Stage = Quench["stages"][number];
type Temper = Extract<Step, { kind: "temper" }>;
type SubZero = Extract<Step, { kind: "sub_zero" }>;
type Anneal = Extract<Step, { kind: "anneal" }>;
type Plates = NonNullable<Stage["plates"]>;

/** How a blade goes into a bath. */
export const ENTRIES: Record<NonNullable<Stage["entry"]>, string> = {
  tip_first: "point first",
  edge_first: "edge first",
  spine_first: "back first",
  flat: "flat on its side",
  slanting: "slanting",
};

/** What plates are of. */
export const PLATE_METALS: Record<Plates["metal"], string> = {
  aluminium: "aluminium",
  copper: "copper",
  brass: "brass",
  steel: "steel",
};

/** In what it cools after a temper. */
export const COOLED: Record<NonNullable<Temper["cooled"]>, string> = {
  air: "cooled in air",
  oven: "cooled in the oven",
  water: "cooled in water",
};

/** What makes the cold. */
export const COLD_BATHS: Record<NonNullable<SubZero["bath"]>, string> = {
  freezer: "freezer",
  dry_ice_alcohol: "dry ice in alcohol",
  dry_ice_acetone: "dry ice in acetone",
  nitrogen: "nitrogen",
};

/** In what an annealed blade cools. */
export const BEDS: Record<NonNullable<Anneal["bed"]>, string> = {
  furnace: "in the shut fire",
  ash: "in ash",
  vermiculite: "in vermiculite",
};

function ofStage(stage: Stage, say: Say): string[] {
  const parts = [
    stage.entry ? ENTRIES[stage.entry] : "",
    stage.edge_depth_mm ? `edge ${say.length(stage.edge_depth_mm)} deep` : "",
    stage.tip_length_mm ? `${say.length(stage.tip_length_mm)} from the point` : "",
    stage.agitation === "still" ? "held still" : "",
    stage.agitation === "strong" ? "stirred hard" : "",
    stage.litres ? `${stage.litres} l` : "",
    stage.blades && stage.blades > 1 ? `${stage.blades} blades at once` : "",
  ];
  const { plates } = stage;
  if (plates && stage.medium === "plates") {
    const what = `${PLATE_METALS[plates.metal]} of ${say.length(plates.thickness_mm)}`;
    parts.push(
      plates.one_slab ? `on one slab of ${what}` : what,
      plates.with_air ? "with air" : "",
    );
  }
  return parts.filter(Boolean);
}

/** What is said of a step beside its numbers; nothing where it is done as usual. */
export function manner(step: Step, say: Say): string {
  switch (step.kind) {
    case "quench":
      return step.stages
        .map((s) => ofStage(s, say).join(", "))
        .filter(Boolean)
        .join("; then ");
    case "temper":
      return [
        step.clamp
          ? step.clamp.shim_mm
            ? `clamped ${say.fine(step.clamp.shim_mm)} past straight`
            : "clamped straight"
          : "",
        step.cooled ? COOLED[step.cooled] : "",
        step.blades && step.blades > 1 ? `${step.blades} blades in` : "",
      ]
        .filter(Boolean)
        .join(", ");
    case "sub_zero":
      return [
        step.bath ? COLD_BATHS[step.bath] : "",
        step.until_c != null ? `warmed up to ${say.temperature(step.until_c)}` : "",
      ]
        .filter(Boolean)
        .join(", ");
    case "anneal":
      return step.bed ? BEDS[step.bed] : "";
    default:
      return "";
  }
}
