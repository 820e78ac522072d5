import type { Firing } from "../api/client";
import type { components } from "../api/schema";
import { percent, type Say } from "../words/quantities";
import { orderOf } from "./course";
import { clock } from "./timing";

type Hold = components["schemas"]["StraightHold"];

/** How far ahead a clamp is told of, s. */
const LATER_S = 20;

/** What the straightening window says now. */
export interface StraightenNow {
  /** When it opens and closes, ms; both sound. */
  opens: number;
  closes: number;
  text: string;
  /** Share of the window that is left, 0 to 1; null before it opens. */
  left: number | null;
}

/** Share of a bow that holding it straight takes out from a moment on, s from the bath; null when nothing is known of it. */
export function takesOut(holds: Hold[], at: number): number | null {
  const after = holds.findIndex((h) => h.from_s > at);
  const [first, last] = [holds[0], holds.at(-1)];
  if (!first || !last) return null;
  if (after === 0) return first.takes_out;
  if (after < 0) return at > last.from_s ? null : last.takes_out;
  const [a, b] = [holds[after - 1], holds[after]];
  if (!a || !b) return null;
  return a.takes_out + ((b.takes_out - a.takes_out) * (at - a.from_s)) / (b.from_s - a.from_s);
}

/** What a clamp takes out now, and in a little while. */
function holding(holds: Hold[], at: number): string {
  const now = takesOut(holds, at);
  const later = takesOut(holds, at + LATER_S);
  if (now === null || now < 0.05) return "";
  const then = later === null || later < 0.05 ? "next to nothing" : percent(later);
  return ` Clamped straight until it is cold: takes out ${percent(now)} of a bow; in ${LATER_S} s ${then}.`;
}

/**
 * The straightening window, counted from the bath: shown while the blade is in the last quench, or just
 * out of it. The numbers are the engine's, frozen with the prediction.
 */
export function straightenNow(firing: Firing, now: number, say: Say): StraightenNow | null {
  const w = firing.prediction.straightening;
  if (!w) return null;
  const last = orderOf(firing).findLast((n) => firing.steps[n]?.kind === "quench") ?? -1;
  const bath = firing.actions.findIndex((b) => b.step === last);
  const since = firing.state.confirmed_ms[bath];
  const here = firing.actions[firing.state.position - 1];
  const next = firing.actions[firing.state.position];
  const straightening = next && firing.steps[next.step]?.kind === "straighten";
  if (bath < 0 || since === undefined || !here) return null;
  if (here.step !== last && !straightening) return null;
  const opens = since + 1000 * w.pull_s;
  const out = here.mark === "quenched";
  const closes = since + 1000 * (out ? w.until_s : w.in_bath_s);
  const longest = since + 1000 * w.until_s;
  if (now < opens) {
    const text = `In ${clock(Math.ceil((opens - now) / 1000))} it can come out to be straightened: then ${clock(w.until_s - w.pull_s)} until it stiffens at ${say.temperature(w.martensite_start_c)}.`;
    return { opens, closes: longest, text, left: null };
  }
  const held = out ? holding(w.holds ?? [], (now - since) / 1000) : "";
  if (now >= closes) {
    if (!held && now > longest + 60_000) return null;
    const text = held
      ? `By hand it springs or snaps now.${held}`
      : "Too late to straighten: it springs or snaps now.";
    return { opens, closes, text, left: 0 };
  }
  const left = (closes - now) / (closes - opens);
  const past = w.overbend_mm ? `, ${say.about(w.overbend_mm)} past straight by hand` : "";
  const text = out
    ? `Straighten now: ${clock(Math.ceil((closes - now) / 1000))} left${past}.${held}`
    : `Take it out to straighten: in the bath ${clock(Math.ceil((closes - now) / 1000))} left, out of it ${clock(Math.ceil((longest - now) / 1000))}.`;
  return { opens, closes, text, left };
}
