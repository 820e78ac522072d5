import type { Firing, FiringAction } from "../api/client";

const stationOf = (firing: Firing, step: number) => {
  const s = firing.steps[step];
  return s && "station_id" in s ? (s.station_id ?? null) : null;
};

/** A load goes in at one temperature, °C. */
const heatOf = (firing: Firing, step: number) => {
  const s = firing.steps[step];
  return s && "temperature_c" in s ? Math.round(s.temperature_c) : null;
};

type Action = FiringAction["kind"] | undefined;

/** The same thing to do, down to medium and temperature. */
const sameAction = (a: Action, b: Action) => JSON.stringify(a) === JSON.stringify(b);

/**
 * The firings that stand where this one does: the same next action, at the same kind of step, as hot, and in
 * the same fire or oven. They go in one load; a quench is done blade by blade.
 */
export function standingWith(front: Firing, all: Firing[]): Firing[] {
  const next = front.actions[front.state.position];
  if (!next?.together) return [front];
  const same = (other: Firing) => {
    const theirs = other.actions[other.state.position];
    if (!theirs || !sameAction(theirs.kind, next.kind)) return false;
    const [a, b] = [stationOf(front, next.step), stationOf(other, theirs.step)];
    const kinds = [front.steps[next.step]?.kind, other.steps[theirs.step]?.kind];
    if (heatOf(front, next.step) !== heatOf(other, theirs.step)) return false;
    return kinds[0] === kinds[1] && (a === null || b === null || a === b);
  };
  return [front, ...all.filter((f) => f.id !== front.id && same(f))];
}

/** How a firing left its plan since its last confirmed action. */
export function lastDeviation(firing: Firing) {
  const last = firing.state.deviations?.at(-1);
  return last?.position === firing.state.position ? last : undefined;
}

/** The event that an undo takes back: what was confirmed last, or how it left the plan since. */
export const lastEvent = (firing: Firing) =>
  lastDeviation(firing)?.event ?? firing.state.confirmed_by?.at(-1);

/** The firings whose last action was this one's, in the same moment: they are undone together. */
export function lastWith(front: Firing, all: Firing[]): Firing[] {
  if (lastDeviation(front)) return [front];
  const at = front.state.confirmed_ms.at(-1);
  const action = front.actions[front.state.position - 1]?.kind;
  const same = (f: Firing) =>
    !lastDeviation(f) &&
    f.state.confirmed_ms.at(-1) === at &&
    sameAction(f.actions[f.state.position - 1]?.kind, action);
  return [front, ...all.filter((f) => f.id !== front.id && at !== undefined && same(f))];
}
