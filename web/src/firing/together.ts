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

/** The event that confirmed the last action of a firing: what an undo takes back. */
export const lastEvent = (firing: Firing) => firing.state.confirmed_by?.at(-1);

/** The firings whose last action was this one's, in the same moment: they are undone together. */
export function lastWith(front: Firing, all: Firing[]): Firing[] {
  const at = front.state.confirmed_ms.at(-1);
  const action = front.actions[front.state.position - 1]?.kind;
  const same = (f: Firing) =>
    f.state.confirmed_ms.at(-1) === at && sameAction(f.actions[f.state.position - 1]?.kind, action);
  return [front, ...all.filter((f) => f.id !== front.id && at !== undefined && same(f))];
}
