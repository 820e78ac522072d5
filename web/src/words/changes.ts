import type { Change, Step } from "../api/client";
import { MEDIA, STEPS } from "./names";
import type { Say } from "./quantities";

/** What a button does that puts a new step in. */
function inserted(step: Step, say: Say): string {
  switch (step.kind) {
    case "clay":
      return "Add clay and dry";
    case "temper":
      return `Add ${step.times} × ${say.time(step.hold_s)} at ${say.temperature(step.temperature_c)}`;
    case "sub_zero":
      return `Add ${say.temperature(step.temperature_c)}`;
    case "coat":
      return "Coat it";
    case "normalize":
      return "Normalize once more";
    case "stress_relief":
      return "Stress relief first";
    case "straighten":
      return "Straighten out of the bath";
    default:
      return `Add ${STEPS[step.kind].toLowerCase()}`;
  }
}

/** What a button does that puts another step in the place of one. */
function replaced(step: Step, say: Say): string {
  if (step.kind !== "quench") return `Change to ${STEPS[step.kind].toLowerCase()}`;
  const [first, then] = step.stages;
  if (!first) return "Change the quench";
  if (then && first.for_s) {
    const oil = then.medium.includes("oil") ? "oil" : MEDIA[then.medium];
    return `${first.medium === "water" ? "Water" : MEDIA[first.medium]} ${say.time(first.for_s)}, then ${oil}`;
  }
  return `Quench in ${MEDIA[first.medium]}`;
}

/** What a button does that gives a number of a step another value. */
function set(change: Extract<Change, { change: "set" }>, say: Say): string {
  const { field, kind, value } = change;
  switch (field) {
    case "temperature_c":
      if (kind === "temper") return `Temper at ${say.temperature(value)}`;
      if (kind === "austenitize") return `Austenitize at ${say.temperature(value)}`;
      return `Set ${say.temperature(value)}`;
    case "soak_s":
      return `Soak ${say.time(value)}`;
    case "hold_s":
      return kind === "clay" ? `Dry ${say.time(value)}` : `Hold ${say.time(value)}`;
    case "wait_s":
      return value === 0 ? "Into the cold at once" : `Wait ${say.time(value)}`;
  }
}

/** What a button says that changes the plan. */
export function changeLabel(change: Change, say: Say): string {
  switch (change.change) {
    case "set":
      return set(change, say);
    case "insert":
      return inserted(change.step as Step, say);
    case "replace":
      return replaced(change.with as Step, say);
    case "remove":
      return "Take it out";
  }
}
