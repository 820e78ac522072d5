import type { Change, Step } from "../api/client";
import { nudged, type Units } from "../quantity/parse";

/** Changes to a list of steps; none of them touches the list it is given. */

export const TEMPERATURE: [number, number] = [-200, 1300];
export const TIME: [number, number] = [0, 604_800];

const within = (value: number, [low, high]: [number, number]) =>
  Math.min(high, Math.max(low, value));

export function replace(steps: Step[], at: number, step: Step): Step[] {
  return steps.map((s, i) => (i === at ? step : s));
}

export function temperatureOf(step: Step): number | null {
  if (step.kind === "quench") return step.stages[0]?.bath_c ?? null;
  return "temperature_c" in step ? step.temperature_c : null;
}

export function withTemperature(step: Step, t: number): Step {
  if (step.kind === "quench") {
    return { ...step, stages: step.stages.map((s, i) => (i === 0 ? { ...s, bath_c: t } : s)) };
  }
  if (!("temperature_c" in step)) return step;
  const set = { ...step, temperature_c: within(t, TEMPERATURE) };
  // A heat in degrees is by an instrument.
  if ("by" in set) delete set.by;
  return set;
}

export function timeOf(step: Step): number | null {
  switch (step.kind) {
    case "quench":
      return step.stages[0]?.for_s ?? null;
    case "austenitize":
      return step.soak_s;
    default:
      return "hold_s" in step ? step.hold_s : null;
  }
}

export function withTime(step: Step, seconds: number): Step {
  const s = within(seconds, TIME);
  switch (step.kind) {
    case "quench":
      return {
        ...step,
        stages: step.stages.map((stage, i) =>
          i === 0 && stage.for_s ? { ...stage, for_s: Math.max(0.5, s) } : stage,
        ),
      };
    case "austenitize":
      return { ...step, soak_s: s };
    case "temper":
      return { ...step, hold_s: Math.max(60, s) };
    default:
      return "hold_s" in step ? { ...step, hold_s: s } : step;
  }
}

export function nudge(
  steps: Step[],
  at: number,
  what: "temperature" | "time",
  way: 1 | -1,
  big: boolean,
  units: Units,
): Step[] {
  const step = steps[at];
  if (!step) return steps;
  const now = what === "temperature" ? temperatureOf(step) : timeOf(step);
  if (now === null) return steps;
  const next = nudged(what, now, way, big, units);
  return replace(
    steps,
    at,
    what === "temperature" ? withTemperature(step, next) : withTime(step, next),
  );
}

export function remove(steps: Step[], at: number): Step[] {
  return steps.filter((_, i) => i !== at);
}

export function insert(steps: Step[], at: number, step: Step): Step[] {
  return [...steps.slice(0, at), step, ...steps.slice(at)];
}

/** The steps with clay laid before the last hardening heat, where none is laid in them; it dries as long as it needs. */
export function withClay(steps: Step[], dryS: number): Step[] {
  if (steps.some((s) => s.kind === "clay")) return steps;
  let at = steps.findLastIndex((s) => s.kind === "austenitize");
  if (at < 0) return steps;
  while (steps[at - 1]?.kind === "preheat") at -= 1;
  return insert(steps, at, { kind: "clay", temperature_c: 200, hold_s: dryS });
}

/** A step of a kind to start from. */
export function fresh(kind: Step["kind"], austenitize: number, normalize: number | null): Step {
  switch (kind) {
    case "normalize":
      return { kind, temperature_c: normalize ?? austenitize, hold_s: 120 };
    case "anneal":
      return { kind, temperature_c: 780, hold_s: 3600 };
    case "stress_relief":
      return { kind, temperature_c: 650, hold_s: 3600 };
    case "refine":
      return { kind, temperature_c: austenitize - 25, hold_s: 120 };
    case "coat":
    case "pouch":
    case "straighten":
    case "stamp":
      return { kind };
    case "clay":
      return { kind, temperature_c: 200, hold_s: 3600 };
    case "preheat":
      return { kind, temperature_c: 550, hold_s: 600 };
    case "cool":
      return { kind, temperature_c: 20, hold_s: 0 };
    case "torch_temper":
      return { kind, temperature_c: 400, part: "spine" };
    case "check":
      return { kind, look: "straight" };
    case "austenitize":
      return { kind, temperature_c: austenitize, soak_s: 300 };
    case "quench":
      return { kind, stages: [{ medium: "fast_oil", bath_c: 50 }] };
    case "sub_zero":
      return { kind, temperature_c: -75, hold_s: 7200, wait_s: 0 };
    case "temper":
      return { kind, temperature_c: 205, hold_s: 7200, times: 1 };
  }
}

type Field = Extract<Change, { change: "set" }>["field"];

/** A step with one of its numbers changed; as it is where it has no such number. */
function withField(step: Step, field: Field, value: number): Step {
  if (field === "temperature_c") return withTemperature(step, value);
  if (field === "wait_s") {
    return step.kind === "sub_zero" ? { ...step, wait_s: within(value, TIME) } : step;
  }
  return withTime(step, value);
}

/** Applies a change that was proposed. */
export function apply(steps: Step[], change: Change): Step[] {
  switch (change.change) {
    case "insert":
      return insert(steps, change.at, change.step);
    case "replace":
      return replace(steps, change.at, change.with);
    case "remove":
      return remove(steps, change.step);
    case "set": {
      const step = steps[change.step];
      if (!step) return steps;
      return replace(steps, change.step, withField(step, change.field, change.value));
    }
  }
}
