import type { FiringAction } from "../api/client";

/** Minutes and seconds, or hours from an hour on. */
export function clock(seconds: number): string {
  const s = Math.abs(Math.trunc(seconds));
  const two = (n: number) => String(n).padStart(2, "0");
  const sign = seconds < 0 && s > 0 ? "+" : "";
  if (s >= 3600)
    return `${sign}${Math.floor(s / 3600)}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`;
  return `${sign}${Math.floor(s / 60)}:${two(s % 60)}`;
}

export interface Timing {
  /** Seconds to show: what is left of a timed hold (negative: over), otherwise what has gone by. */
  shown: number;
  of: string;
  over: boolean;
  spoken: string;
}

export function timing(now: number, since: number | undefined, lasts: number | undefined): Timing {
  const gone = since === undefined ? 0 : Math.max(0, (now - since) / 1000);
  if (since === undefined || lasts === undefined) {
    return { shown: gone, of: "", over: false, spoken: `${Math.round(gone / 60)} minutes gone` };
  }
  const left = lasts - gone;
  const whole = left > 0 ? Math.ceil(left) : Math.ceil(left) || 0;
  return {
    shown: whole,
    of: `of ${clock(lasts)},`,
    over: left <= 0,
    spoken: left > 0 ? `${Math.ceil(left / 60)} minutes left` : "time is up",
  };
}

/** A press that ends a hold far too early or far too late. */
export type Odd = "early" | "late";

/** A shorter hold is never asked about, s: a bath is not waited with. */
const SHORTEST_S = 60;
const [EARLY, LATE] = [0.5, 2];

/** Whether the press that ends what goes on is far off its time; of baths it is never asked. */
export function oddPress(
  last: FiringAction | undefined,
  since: number | undefined,
  now: number,
): Odd | null {
  if (last?.mark !== "hold_begins" || !last.lasts_s || since === undefined) return null;
  if (last.lasts_s < SHORTEST_S) return null;
  const share = (now - since) / (1000 * last.lasts_s);
  if (share < EARLY) return "early";
  return share > LATE ? "late" : null;
}
