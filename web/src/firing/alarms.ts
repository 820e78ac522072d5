import type { Firing } from "../api/client";

/** A moment of a blade in the fire that is rung for. */
export interface Alarm {
  /** The same for the same moment of the same blade, however often it is looked at. */
  id: string;
  firing: Firing;
  /** When, ms of the server. */
  at: number;
  /** Minutes before its time is up, or now. */
  what: "soon" | "up";
}

/** So long before its time is up it is told of, ms; of holds that last at least the second, s. */
export const SOON_MS = 120_000;
const LONG_S = 600;
/** What is over for longer was rung for elsewhere, or slept through, ms. */
const LATE_MS = 90_000;

/** What there is to ring for of a blade: when the time of what goes on is up, and minutes before where it is long. */
export function alarmsOf(firing: Firing): Alarm[] {
  if (firing.closed_at) return [];
  const { position, confirmed_ms } = firing.state;
  const lasts = firing.actions[position - 1]?.lasts_s;
  const since = confirmed_ms.at(-1);
  if (!lasts || since === undefined) return [];
  const up = since + 1000 * lasts;
  const one = (what: Alarm["what"], at: number): Alarm => ({
    id: `${firing.id} ${what} ${at}`,
    firing,
    at,
    what,
  });
  return [...(lasts >= LONG_S ? [one("soon", up - SOON_MS)] : []), one("up", up)];
}

/** Those that are due now and were not rung for: a page in the background may look a minute late. */
export function due(all: Firing[], now: number, rung: ReadonlySet<string>): Alarm[] {
  return all
    .flatMap(alarmsOf)
    .filter((a) => now >= a.at && now < a.at + LATE_MS && !rung.has(a.id))
    .sort((a, b) => a.at - b.at);
}
